import type { Edition, Since } from "../api/types";
import { plural } from "../shared/words";

/** made says what an edition was made by. */
export const made: Record<Edition["by"], string> = {
  hand: "by hand",
  interval: "automatic",
  "before-writing": "before writing",
  "before-restore": "before restoring",
  sealing: "when sealed",
  "taken-in": "saved copy",
};

/** changes tells what came, went and changed, in few words. */
export function changes(s: Since | null | undefined): string {
  if (!s) return "";
  const list = [
    s.came > 0 && `${s.came} came`,
    s.went > 0 && `${s.went} went`,
    s.changed > 0 && `${s.changed} changed`,
  ].filter(Boolean);
  if (list.length > 0) return list.join(", ");
  return s.documents > 0 ? `${plural(s.documents, "document")} changed` : "nothing changed";
}
