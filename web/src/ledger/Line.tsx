import { memo, type ReactNode } from "react";

import { count } from "../shared/words";
import { tip } from "../shared/Tip";
import type { Column, Line } from "./rows";

/** Look is how lines are drawn; it stays the same object while nothing of it changes. */
export interface Look<R> {
  columns: readonly Column<R>[];
  /** stands before a row's cells and before a heading */
  mark: ((row: R | null, group: string) => ReactNode) | undefined;
  faint: ((row: R) => boolean) | undefined;
  raised: ((row: R) => boolean) | undefined;
  drag: boolean;
}

interface Props {
  line: Line<{ key: string }> | undefined;
  index: number;
  top: number;
  height: number;
  tracks: string;
  id: string | undefined;
  on: boolean;
  also: boolean;
  look: Look<{ key: string }>;
}

/** Shown is one line. While one scrolls only those that come into sight are drawn. */
export const Shown = memo(function Shown({ line, index, top, height, tracks, id, on, also, look }: Props) {
  const { columns, mark, faint, raised, drag } = look;
  const row = line?.row ?? null;
  const ground = line?.heading
    ? "border-rule bg-band"
    : on || also
      ? `border-hair bg-seawash ${on ? "shadow-[inset_3px_0_0_var(--sea)]" : ""}`
      : `border-hair ${row !== null && raised?.(row) ? "bg-ochrewash" : "hover:bg-band"}`;
  return (
    <div
      id={id}
      data-index={index}
      role="row"
      aria-rowindex={index + 2}
      aria-selected={row !== null ? on || also : undefined}
      draggable={drag && row !== null}
      style={{ top, height, gridTemplateColumns: tracks }}
      className={`absolute inset-x-0 grid cursor-default items-center gap-2 border-b px-[18px] ${ground} ${row !== null && faint?.(row) ? "text-faint" : ""}`}
    >
      {line?.heading ? (
        <div
          role="gridcell"
          aria-colspan={columns.length + (mark ? 1 : 0)}
          className="col-span-full flex items-center gap-2.5"
        >
          {mark?.(null, line.heading.key)}
          <button
            type="button"
            tabIndex={-1}
            className="truncate font-frame text-[15px] font-semibold hover:underline"
            {...tip("Select all rows under this heading  g")}
          >
            {line.heading.title}
          </button>
          <span className="font-frame text-[15px] font-semibold">{count(line.heading.count)}</span>
          <span className="truncate text-[12px] text-faint">{line.heading.note}</span>
        </div>
      ) : row !== null ? (
        <>
          {mark ? <div role="gridcell">{mark(row, "")}</div> : null}
          {columns.map((c) => (
            <div key={c.id} role="gridcell" className={`min-w-0 ${c.right ? "text-right" : ""}`}>
              {c.cell ? c.cell(row) : <Text right={c.right ?? false}>{c.text(row)}</Text>}
            </div>
          ))}
        </>
      ) : (
        <div role="gridcell" />
      )}
    </div>
  );
});

/** Text is a plain cell: figures on the right in mono, cut short where there is no room. */
export function Text({ children, right, mono }: { children: string; right?: boolean; mono?: boolean }) {
  return (
    <span
      className={`block truncate text-[12px] ${right || mono ? "font-mono tabular-nums" : "text-ink2"}`}
      {...tip(right ? undefined : children)}
    >
      {children}
    </span>
  );
}
