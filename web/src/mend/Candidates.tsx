import type { Candidate, WantedRow } from "../api/types";
import { Section } from "../shared/parts";
import { tip } from "../shared/Tip";
import { plural } from "../shared/words";
import { Certainty } from "./Certainty";

interface CandidatesProps {
  list: readonly Candidate[];
  row: WantedRow;
  on: Candidate | undefined;
  onChoose: (i: number) => void;
}

/** Candidates are what may be the wanted file, the best first; the words that tell them apart are raised. */
export function Candidates({ list, row, on, onChoose }: CandidatesProps) {
  if (list.length === 0) return null;
  const common = shared(list.length > 1 ? list : [row]);
  return (
    <Section title="Candidates" aside={list.length > 1 ? `${plural(list.length, "file")} · c for the next` : "1 file"}>
      <ul aria-label="Candidates">
        {list.map((c, i) => (
          <li key={c.path}>
            <button
              type="button"
              aria-pressed={c === on}
              onClick={() => onChoose(i)}
              className={`flex w-full items-center gap-2 border-b border-hair px-1 py-1 text-left ${c === on ? "bg-seawash" : "hover:bg-band"}`}
              {...tip(c.path)}
            >
              <span className="min-w-0 flex-1">
                <span className="block truncate">
                  <Raised text={c.name} common={common} />
                </span>
                <span className="block truncate font-mono text-[11.5px] text-faint">
                  <Raised text={c.label} common={common} />
                </span>
              </span>
              <span className="text-right">
                <Certainty of={c.certainty} />
                <span className="block text-[11.5px] text-faint">{Math.round(c.score * 100)} of 100</span>
              </span>
            </button>
          </li>
        ))}
      </ul>
    </Section>
  );
}

const words = (text: string) => text.toLowerCase().match(/[\p{L}\p{N}]+/gu) ?? [];

/** shared are the words that the names and folders of all have. */
function shared(list: readonly { name: string; label: string }[]): ReadonlySet<string> {
  const sets = list.map((c) => new Set(words(`${c.label} ${c.name}`)));
  return new Set([...(sets[0] ?? [])].filter((w) => sets.every((s) => s.has(w))));
}

function Raised({ text, common }: { text: string; common: ReadonlySet<string> }) {
  return text.split(/([\p{L}\p{N}]+)/u).map((part, i) =>
    i % 2 === 0 || common.has(part.toLowerCase()) ? (
      part
    ) : (
      <b key={i} className="font-semibold text-ink">
        {part}
      </b>
    ),
  );
}
