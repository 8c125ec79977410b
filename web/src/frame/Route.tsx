import { NavLink } from "react-router";

import type { Summary } from "../api/types";
import { bytes } from "../shared/words";

/** The five stations, in the order of the work. */
export const stations = [
  { path: "trace", name: "Trace", asks: "what it uses, and where that lives" },
  { path: "mend", name: "Mend", asks: "find again what is missing" },
  { path: "sift", name: "Sift", asks: "decide what travels" },
  { path: "stow", name: "Stow", asks: "where each file goes" },
  { path: "seal", name: "Seal", asks: "make the crate, and prove it" },
] as const;

interface Figure {
  figure: string;
  says: string;
  tone?: string;
}

function figures(s: Summary): Figure[] {
  if (!s.traced) return stations.map((_, i) => ({ figure: "—", says: i === 0 ? (s.error ? "could not be read" : "being traced") : "" }));
  const n = (v: number) => v.toLocaleString("en-GB");
  return [
    { figure: n(s.references), says: `references · ${bytes(s.bytes)}` },
    s.toFind > 0 ? { figure: n(s.toFind), says: "to find again", tone: "text-rust" } : { figure: "0", says: "nothing missing", tone: "text-moss" },
    { figure: bytes(s.canStay).replace(" bytes", " B"), says: "can stay behind" },
    s.clashes > 0 ? { figure: n(s.clashes), says: s.clashes === 1 ? "clash, renamed" : "clashes, renamed", tone: "text-ochre" } : { figure: "0", says: "names clash" },
    s.sealed ? (s.complete ? { figure: "Proved", says: "sealed, complete", tone: "text-moss" } : { figure: "Open", says: "sealed, not complete", tone: "text-rust" }) : { figure: "—", says: "not sealed yet" },
  ];
}

/** done is how many stations the line is drawn through. */
function done(s: Summary | undefined): number {
  if (!s?.traced) return 0;
  if (s.sealed) return 5;
  return s.toFind === 0 ? 2 : 1;
}

/** Route is navigation and status at once: each station with the thing left to do there. */
export function Route({ id, summary }: { id: number; summary: Summary | undefined }) {
  const f = summary ? figures(summary) : null;
  const drawn = done(summary);
  return (
    <nav aria-label="Stations" className="relative grid grid-cols-5 border-b border-rule bg-paper px-4">
      {stations.map((s, i) => {
        const inside = (on: boolean) => (
          <>
            <span className={`col-start-1 row-span-2 row-start-1 grid size-5 place-items-center self-center rounded-xs border font-mono text-[12px] ${on ? "border-sea bg-sea text-onsea" : "border-rule text-faint"}`}>{i + 1}</span>
            <span className={`caps text-[15px] leading-tight tracking-[.06em] ${on ? "text-sea" : "text-ink2"}`}>{s.name}</span>
            {f ? (
              <span className="flex min-w-0 items-baseline justify-between gap-2">
                <b className={`font-frame text-[26px] leading-none font-semibold whitespace-nowrap tabular-nums ${f[i]?.tone ?? ""}`}>{f[i]?.figure}</b>
                <small className="truncate text-[11.5px] text-faint" title={f[i]?.says}>
                  {f[i]?.says}
                </small>
              </span>
            ) : (
              <small className="truncate text-[12px] text-faint" title={s.asks}>
                {s.asks}
              </small>
            )}
            <span aria-hidden className={`absolute inset-x-0 bottom-[-1px] h-[3px] ${on ? "bg-sea" : i < drawn ? "bg-ink2" : ""}`} />
          </>
        );
        const look = "relative grid grid-cols-[auto_minmax(0,1fr)] content-center gap-x-2.5 border-r border-rule px-3.5 last:border-r-0";
        return id > 0 ? (
          <NavLink key={s.path} to={`/p/${id}/${s.path}`} className={({ isActive }) => `${look} ${isActive ? "bg-sheet" : "hover:bg-band"}`}>
            {({ isActive }) => inside(isActive)}
          </NavLink>
        ) : (
          <div key={s.path} className={look}>
            {inside(false)}
          </div>
        );
      })}
    </nav>
  );
}
