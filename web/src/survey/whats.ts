import type { ChangedFile } from "../api/types";

/** whats says how a file changed. */
export const whats: Record<ChangedFile["what"][number], string> = {
  content: "other content",
  path: "moved or renamed",
  use: "used differently",
  range: "another part of it is used",
};
