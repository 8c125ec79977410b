import type { Limit } from "../api/types";
import { bytes, exact } from "./words";

export interface Load {
  name: string;
  bytes: number;
  stays?: boolean;
}

const fills: Record<string, string> = { sound: "bg-ink text-sheet", sequence: "bg-sea text-onsea", picture: "bg-ink2 text-sheet", geometry: "bg-moss text-onsea", video: "bg-ochre text-onsea" };

/** Gauge is the crate's bytes by kind, what stays behind hatched, with a load line where a carrier's limit lies within. */
export function Gauge({ loads, limits }: { loads: Load[]; limits: Limit[] }) {
  const total = loads.reduce((n, l) => n + l.bytes, 0);
  const travels = loads.reduce((n, l) => n + (l.stays ? 0 : l.bytes), 0);
  if (total === 0) return null;
  const within = limits.filter((l) => !l.file && l.bytes < total);
  return (
    <div aria-label={`${exact(travels)} of ${exact(total)} travel`} role="img" className="relative">
      <div className="flex h-9 border border-ink">
        {loads
          .filter((l) => l.bytes > 0)
          .map((l) => (
            <div key={`${l.name}${l.stays ? " stays" : ""}`} title={`${l.name}${l.stays ? ", stays behind" : ""}: ${exact(l.bytes)}`} style={{ flexGrow: l.bytes, flexBasis: 0 }} className={`flex min-w-[3px] items-center overflow-hidden border-r border-sheet px-1.5 text-[12px] whitespace-nowrap last:border-r-0 ${l.stays ? "hatch-ink bg-sheet text-ink" : (fills[l.name] ?? "bg-faint text-sheet")}`}>
              {l.bytes / total > 0.09 ? <span className={l.stays ? "bg-sheet px-1" : ""}>{`${l.name} ${bytes(l.bytes)}`}</span> : null}
            </div>
          ))}
      </div>
      {within.map((l) => (
        <div key={l.name} style={{ left: `${(100 * l.bytes) / total}%` }} className="absolute -top-1 bottom-[-4px] border-l-2 border-rust" title={`${l.name}: ${exact(l.bytes)}`} />
      ))}
    </div>
  );
}

/** Limits says which carriers the crate fits. */
export function Limits({ limits }: { limits: Limit[] }) {
  return (
    <ul>
      {limits.map((l) => (
        <li key={l.name} className="flex items-baseline justify-between gap-2 py-0.5" title={exact(l.bytes)}>
          <span>{l.name}</span>
          <span className="text-[12px] text-faint">{l.file ? "each file " : ""}up to {l.bytes === 2 ** 32 - 1 ? "4 GiB − 1" : bytes(l.bytes)}</span>
          <b className={`w-16 text-right font-medium ${l.fits ? "text-moss" : "text-rust"}`}>{l.fits ? "fits" : "too large"}</b>
        </li>
      ))}
    </ul>
  );
}
