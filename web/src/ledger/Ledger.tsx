import { useMemo, useRef, useState, type DragEvent, type ReactNode } from "react";

import type { Choice } from "../shared/Choose";
import { useKeys, type Actions } from "../shared/keys";
import { Empty, Trouble } from "../shared/parts";
import { usePlace } from "../shared/place";
import { useColumns } from "./columns";
import { Heads, headHeight } from "./Heads";
import { Shown, type Look } from "./Line";
import { usePicking } from "./picking";
import { askLines, type Asked, type Column, type Lines, type List, type Sums } from "./rows";
import { these, type Picked } from "./selection";
import { Tools } from "./Tools";
import { useWindow } from "./window";

export { Text } from "./Line";
export type { Column } from "./rows";

interface Props<R> {
  id: number;
  /** the server's name of the list */
  name: string;
  label: string;
  columns: readonly Column<R>[];
  groups?: readonly Choice[];
  /** what the address may narrow it by, besides words */
  facets?: readonly string[];
  selected: string;
  onSelect: (key: string, row: R) => void;
  /** lets go of the selected row: by Escape, or a second click on it */
  onNone?: () => void;
  sums: (s: Sums) => string;
  empty: ReactNode;
  /** stands before a row's cells and before a heading */
  mark?: (row: R | null, group: string) => ReactNode;
  /** what can be done with many rows at once */
  acts?: (picked: Picked, done: () => void) => ReactNode;
  /** stands first in the strip above */
  lead?: ReactNode;
  aside?: ReactNode;
  /** further keys, given the selected row where it is on screen, and those chosen with it */
  keys?: (lead: R | null, chosen: Picked) => Actions;
  faint?: (row: R) => boolean;
  raised?: (row: R) => boolean;
  height?: number;
  /** rows can be carried away, as a Selection under this type */
  drag?: string;
}

/** useAsked is what the address asks of a list; what belongs to another list of the page is passed over. */
export function useAsked<R>(p: Pick<Props<R>, "columns" | "groups" | "facets">): Asked {
  const place = usePlace();
  const sort = place.get("sort");
  const group = place.get("group");
  return {
    filter: place.get("filter"),
    sort: p.columns.some((c) => c.id === sort.replace(/^-/, "")) ? sort : "",
    group: p.groups?.some((g) => g.value === group) ? group : "",
    ...Object.fromEntries((p.facets ?? []).map((f) => [f, place.get(f)])),
  };
}

/**
 * Ledger lists rows of any number. The server filters, sorts, groups and counts;
 * what is chosen stands in the address, which columns show is remembered.
 */
export function Ledger<R extends { key: string }>(p: Props<R>) {
  const { id, name, selected, columns: all, mark, faint, raised, height = 28 } = p;
  const place = usePlace();
  const asked = useAsked(p);
  const list: List = { id, name, asked };
  const { scroller, virtual, items, lineAt, total, head, error } = useWindow<Lines<R>["lines"][number], Lines<R>>(
    (offset, limit) => askLines<R>(list, offset, limit),
    height,
    headHeight,
  );
  const [wrong, setWrong] = useState<unknown>(null);
  const columns = useColumns(name, all, asked.sort ?? "", (sort) => place.set({ sort }));
  const picking = usePicking<R>({
    list,
    selected,
    onSelect: p.onSelect,
    onNone: p.onNone,
    lineAt,
    total,
    snapshot: head?.snapshot ?? "",
    onWrong: setWrong,
  });
  const { picked } = picking;

  const drag = p.drag !== undefined;
  const look = useMemo(
    () => ({ columns: columns.shown, mark, faint, raised, drag }),
    [columns.shown, mark, faint, raised, drag],
  );
  const tracks = [mark ? "16px" : "", ...columns.shown.map((c) => c.width)].filter(Boolean).join(" ");
  const onScreen = items.find((v) => lineAt(v.index)?.row?.key === selected)?.index ?? -1;
  const move = (by: number, e: KeyboardEvent) => {
    const at = picking.move(by, onScreen, e);
    if (at >= 0) virtual.scrollToIndex(at);
  };
  const page = () => Math.max(1, Math.floor((scroller.current?.clientHeight ?? 280) / height) - 1);
  const grouped = (asked.group || p.groups?.[0]?.value || "none") !== "none";
  const field = useRef<HTMLInputElement>(null);
  const [choosing, setChoosing] = useState(false);
  useKeys({
    j: (e) => move(1, e),
    ArrowDown: (e) => move(1, e),
    k: (e) => move(-1, e),
    ArrowUp: (e) => move(-1, e),
    PageDown: (e) => move(page(), e),
    PageUp: (e) => move(-page(), e),
    a: head ? () => picking.all(head.rows) : undefined,
    g: grouped && selected ? () => picking.group(selected) : undefined,
    Escape: picked.size > 0 ? picking.none : selected ? p.onNone : undefined,
    "/": () => field.current?.focus(),
    o: () => setChoosing(true),
    ...p.keys?.(lineAt(onScreen)?.row ?? null, picking.chosen),
  });
  const carry = (e: DragEvent) => {
    const i = lineOf(e);
    const row = lineAt(i)?.row;
    if (!p.drag || !row) return;
    e.dataTransfer.setData(p.drag, JSON.stringify(picked.has(row.key, i) ? picked.said : these([row.key]).said));
    e.dataTransfer.effectAllowed = "move";
  };

  return (
    <>
      <Tools
        {...p}
        list={list}
        columns={columns}
        all={all}
        picking={picking}
        head={head}
        field={field}
        choosing={choosing}
        onChoosing={setChoosing}
        onWrong={setWrong}
      />
      <Trouble error={error ?? wrong} onAway={wrong ? () => setWrong(null) : undefined} />
      <div
        ref={scroller}
        role="grid"
        aria-label={p.label}
        aria-rowcount={head ? total + 1 : -1}
        aria-colcount={columns.shown.length + (mark ? 1 : 0)}
        aria-multiselectable
        aria-activedescendant={selected && onScreen >= 0 ? `${name}-lead` : undefined}
        tabIndex={0}
        onClick={(e) => picking.click(e, lineOf(e))}
        onMouseDown={(e) => e.shiftKey && e.preventDefault()}
        onDragStart={carry}
        className="min-h-0 flex-1 overflow-auto -outline-offset-2 [scrollbar-gutter:stable] narrow:h-[max(60vh,340px)] narrow:flex-none"
      >
        <div className="narrow:min-w-[640px]">
          <Heads columns={columns} tracks={tracks} marked={mark !== undefined} />
          {head && total === 0 ? (
            <div role="row">
              <div role="gridcell">
                {asked.filter ? <Empty title="No rows match the filter">Remove a word to see more.</Empty> : p.empty}
              </div>
            </div>
          ) : null}
          <div role="presentation" className="relative" style={{ height: virtual.getTotalSize() }}>
            {items.map((v) => {
              const line = lineAt(v.index);
              const on = line?.row != null && line.row.key === selected;
              return (
                <Shown
                  key={v.key}
                  line={line}
                  index={v.index}
                  top={v.start - headHeight}
                  height={v.size}
                  tracks={tracks}
                  id={on ? `${name}-lead` : undefined}
                  on={on}
                  also={line?.row != null && picked.has(line.row.key, v.index)}
                  look={look as unknown as Look<{ key: string }>}
                />
              );
            })}
          </div>
        </div>
      </div>
    </>
  );
}

/** lineOf is the line that an event happened on, −1 where it is none. */
const lineOf = (e: { target: EventTarget }) =>
  Number((e.target as Element).closest<HTMLElement>("[data-index]")?.dataset.index ?? -1);
