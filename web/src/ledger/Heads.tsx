import type { Columns } from "./columns";

/** headHeight is that of the columns' heads, which stay in sight. */
export const headHeight = 24;

const arrows = { asc: " ↑", desc: " ↓" };

/** Heads are those of the columns; a press on one sorts by it. */
export function Heads<R extends { key: string }>(p: { columns: Columns<R>; tracks: string; marked: boolean }) {
  return (
    <div
      role="row"
      aria-rowindex={1}
      style={{ gridTemplateColumns: p.tracks }}
      className="sticky top-0 z-1 grid h-6 items-center gap-2 border-b border-rule bg-sheet px-[18px] text-[11.5px] text-faint"
    >
      {p.marked ? (
        <span role="columnheader">
          <span className="sr-only">state</span>
        </span>
      ) : null}
      {p.columns.shown.map((c) => {
        const sorted = p.columns.sorted(c);
        return (
          <span
            key={c.id}
            role="columnheader"
            aria-sort={sorted === "asc" ? "ascending" : sorted === "desc" ? "descending" : "none"}
            className={`min-w-0 truncate ${c.right ? "text-right" : ""}`}
          >
            <button type="button" onClick={p.columns.turn(c)} className="max-w-full truncate hover:text-ink">
              {c.title + (sorted ? arrows[sorted] : "")}
            </button>
          </span>
        );
      })}
    </div>
  );
}
