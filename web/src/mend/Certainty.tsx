import type { Candidate } from "../api/types";
import { Badge } from "../shared/parts";

const tones = { certain: "moss", likely: "sea", possible: "ochre" } as const;

/** Certainty is how sure a candidate is, in its colour and its word. */
export function Certainty({ of }: { of: Candidate["certainty"] }) {
  return of === "" ? null : <Badge tone={tones[of]}>{of}</Badge>;
}
