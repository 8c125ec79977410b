import { NavLink } from "react-router";

import type { Summary } from "../api/types";
import { tip } from "../shared/Tip";
import { stations } from "./stations";

const look =
  "relative grid grid-cols-[auto_minmax(0,1fr)] content-center gap-x-2.5 border-r border-rule px-3.5 last:border-r-0 narrow:px-2 narrow:py-1.5 max-[700px]:border-b max-[700px]:border-hair";

/** Route is navigation and status at once: each station with the thing left to do there. */
export function Route({ id, summary }: { id: number; summary: Summary | undefined }) {
  const drawn = summary?.traced ? stations.findIndex((s) => !s.passed(summary)) : 0;
  return (
    <nav
      aria-label="Stations"
      className="relative grid grid-cols-5 border-b border-rule bg-paper px-4 narrow:px-0 max-[700px]:grid-cols-2"
    >
      {stations.map((s, i) => {
        const f = figure(summary, i);
        const inside = (on: boolean) => (
          <>
            <span
              className={`col-start-1 row-span-2 row-start-1 grid size-5 place-items-center self-center rounded-xs border font-mono text-[12px] ${on ? "border-sea bg-sea text-onsea" : "border-rule text-faint"}`}
            >
              {s.key}
            </span>
            <span className={`caps text-[15px] leading-tight tracking-[.06em] ${on ? "text-sea" : "text-ink2"}`}>
              {s.name}
            </span>
            {f ? (
              <span className="flex min-w-0 items-baseline justify-between gap-2">
                <b
                  className={`font-frame text-[26px] leading-none font-semibold whitespace-nowrap tabular-nums ${f.tone ?? ""}`}
                >
                  {f.figure}
                </b>
                <small className="line-clamp-2 text-right text-[11.5px] leading-tight text-faint" {...tip(f.says)}>
                  {f.says}
                </small>
              </span>
            ) : (
              <small className="line-clamp-2 text-[12px] leading-tight text-faint">{s.asks}</small>
            )}
            <span
              aria-hidden
              className={`absolute inset-x-0 bottom-[-1px] h-[3px] ${on ? "bg-sea" : drawn < 0 || i < drawn ? "bg-ink2" : ""}`}
            />
          </>
        );
        return (
          <NavLink
            key={s.path}
            to={`/p/${id}/${s.path}`}
            className={({ isActive }) => `${look} ${isActive ? "bg-sheet" : "hover:bg-band"}`}
          >
            {({ isActive }) => inside(isActive)}
          </NavLink>
        );
      })}
    </nav>
  );
}

function figure(s: Summary | undefined, i: number) {
  if (!s) return null;
  if (s.traced) return stations[i]?.figure(s) ?? null;
  return { figure: "—", says: i > 0 ? "" : s.error ? "could not be read" : "being traced", tone: "" };
}
