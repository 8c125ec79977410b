import type { Limit } from "../api/types";
import { tip } from "./Tip";
import { bytes, exact } from "./words";

export interface Load {
  kind: string;
  name: string;
  bytes: number;
  stays?: boolean;
}

const fills: Record<string, string> = {
  audio: "bg-ink",
  sequence: "bg-sea",
  image: "bg-tank",
  geometry: "bg-moss",
  video: "bg-ochre",
  material: "bg-brass",
  part: "bg-sea",
  drawing: "bg-moss",
  document: "bg-ink2",
  along: "hatch-sea bg-sheet",
};
const look = (l: Load) => (l.stays ? "hatch-ink bg-sheet" : (fills[l.kind] ?? "bg-faint"));

/** Gauge is the crate's bytes by kind, what stays behind hatched, with a load line where a carrier's limit lies within. */
export function Gauge({
  loads,
  limits,
  onPick,
}: {
  loads: Load[];
  limits: Limit[];
  /** what a part of it shows when it is clicked */
  onPick?: (l: Load) => void;
}) {
  const total = loads.reduce((n, l) => n + l.bytes, 0);
  const travels = loads.reduce((n, l) => n + (l.stays ? 0 : l.bytes), 0);
  if (total === 0) return null;
  const shown = loads.filter((l) => l.bytes > 0);
  const within = limits.filter((l) => !l.file && l.bytes < total);
  return (
    <div>
      <div
        aria-label={`${exact(travels)} of ${exact(total)} travel`}
        role="img"
        className="relative flex h-8 border border-ink"
      >
        {shown.map((l) => (
          <div
            key={`${l.kind}${l.stays ? " stays" : ""}`}
            {...tip(`${l.name}${l.stays ? ", stays" : ""}: ${exact(l.bytes)}`)}
            style={{ flexGrow: l.bytes, flexBasis: 0 }}
            onClick={onPick && (() => onPick(l))}
            className={`min-w-[3px] border-r border-sheet last:border-r-0 ${onPick ? "cursor-pointer" : ""} ${look(l)}`}
          />
        ))}
        {within.map((l) => (
          <div
            key={l.name}
            style={{ left: `${(100 * l.bytes) / total}%` }}
            className="absolute -top-1 bottom-[-4px] border-l-2 border-rust"
            {...tip(`${l.name}: ${exact(l.bytes)}`)}
          />
        ))}
      </div>
      <ul className="mt-1.5 flex flex-wrap gap-x-4 text-[12px]">
        {shown.map((l) => (
          <li
            key={`${l.kind}${l.stays ? " stays" : ""}`}
            className="flex items-center gap-1.5"
            {...tip(exact(l.bytes))}
          >
            <span aria-hidden className={`size-2.5 border border-ink ${look(l)}`} />
            {onPick ? (
              <button
                type="button"
                onClick={() => onPick(l)}
                className="min-h-6 underline decoration-rule underline-offset-2 hover:decoration-ink"
              >
                {l.name}
                {l.stays ? " stays" : ""}
              </button>
            ) : (
              `${l.name}${l.stays ? " stays" : ""}`
            )}
            <span className="text-faint">{bytes(l.bytes)}</span>
          </li>
        ))}
      </ul>
    </div>
  );
}

/** Limits says which carriers the crate fits. */
export function Limits({ limits }: { limits: Limit[] }) {
  return (
    <ul>
      {limits.map((l) => (
        <li
          key={l.name}
          className="grid grid-cols-[110px_1fr_64px] items-baseline gap-2 py-0.5"
          {...tip(exact(l.bytes))}
        >
          <span>{l.name}</span>
          <span className="text-[12px] text-faint">
            {l.file ? "each file " : ""}up to {l.bytes === 2 ** 32 - 1 ? "4 GiB − 1" : bytes(l.bytes)}
          </span>
          <b className={`text-right font-medium ${l.fits ? "text-moss" : "text-rust"}`}>
            {l.fits ? "fits" : l.parts > 1 ? `${l.parts} parts` : "too large"}
          </b>
        </li>
      ))}
    </ul>
  );
}
