import {
  columnVisibilityFeature,
  rowSortingFeature,
  tableFeatures,
  useTable,
  type ColumnDef,
  type SortingState,
} from "@tanstack/react-table";
import { DropdownMenu } from "radix-ui";
import { memo, useMemo, useRef, useState, type MouseEvent, type ReactNode } from "react";

import { api, query } from "../api/client";
import type { Heading, Keys } from "../api/types";
import { useWindow } from "../api/window";
import { Choose, type Choice } from "./Choose";
import { useKeys, type Actions } from "./keys";
import { Button, Empty, Trouble } from "./parts";
import { every, nothing, these, those, turned, type Picked } from "./selection";
import { usePlace } from "./place";
import { tip } from "./Tip";
import { plural } from "./words";

/** Column is one column of a ledger: the server sorts by its id, text is what is copied of it. */
export interface Column<R> {
  id: string;
  title: string;
  /** its track in the grid, as CSS names it */
  width: string;
  right?: boolean;
  /** shown only when it is asked for */
  extra?: boolean;
  text: (row: R) => string;
  cell?: (row: R) => ReactNode;
}

/** Lines is a window of a ledger, as every table of the server answers. */
interface Lines<R> {
  snapshot: string;
  total: number;
  rows: number;
  files: number;
  references: number;
  bytes: number;
  lines: Line<R>[];
}

interface Line<R> {
  heading: Heading | null;
  row: R | null;
}

export interface Sums {
  rows: number;
  files: number;
  references: number;
  bytes: number;
}

interface Props<R> {
  id: number;
  /** the server's name of the table */
  name: string;
  label: string;
  columns: readonly Column<R>[];
  groups?: readonly Choice[];
  /** what the address may narrow it by, besides words */
  facets?: readonly string[];
  selected: string;
  onSelect: (key: string, row: R) => void;
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

const features = tableFeatures({ columnVisibilityFeature, rowSortingFeature });
// Rows come from the server in windows; the table keeps which columns there are.
const none: never[] = [];
/** headHeight is that of the columns' heads, which stay in sight. */
const headHeight = 24;
const kept = (name: string) => `columns:${name}`;

function remembered(name: string): Record<string, boolean> {
  try {
    return JSON.parse(localStorage.getItem(kept(name)) ?? "{}") as Record<string, boolean>;
  } catch {
    return {};
  }
}

/**
 * Ledger lists rows of any number. The server filters, sorts, groups and counts;
 * what is chosen stands in the address, which columns show is remembered.
 */
export function Ledger<R extends { key: string }>(p: Props<R>) {
  const { id, name, selected } = p;
  const place = usePlace();
  const asked: Record<string, string> = {
    filter: place.get("filter"),
    sort: place.get("sort"),
    group: place.get("group"),
  };
  for (const f of p.facets ?? []) asked[f] = place.get(f);
  const height = p.height ?? 28;
  const path = `/projects/${id}/tables/${name}`;
  const { scroller, list, items, lineAt, total, head, error } = useWindow<Line<R>, Lines<R>>(
    ["project", id, "table", name, asked],
    (offset, limit) => api.get<Lines<R>>(path, { ...asked, offset, limit }),
    height,
    headHeight,
  );

  const [visible, setVisible] = useState<Record<string, boolean>>(() => ({
    ...Object.fromEntries(p.columns.map((c) => [c.id, !c.extra])),
    ...remembered(name),
  }));
  const sorting: SortingState = asked.sort
    ? [{ id: asked.sort.replace(/^-/, ""), desc: asked.sort.startsWith("-") }]
    : [];
  const table = useTable({
    features,
    data: none as R[],
    columns: p.columns.map((c): ColumnDef<typeof features, R> => ({
      id: c.id,
      header: c.title,
      accessorFn: c.text,
      sortDescFirst: false,
    })),
    getRowId: (r) => r.key,
    manualSorting: true,
    state: { columnVisibility: visible, sorting },
    onColumnVisibilityChange: (change) => {
      const now = typeof change === "function" ? change(visible) : change;
      localStorage.setItem(kept(name), JSON.stringify(now));
      setVisible(now);
    },
    onSortingChange: (change) => {
      const [by] = typeof change === "function" ? change(sorting) : change;
      place.set({ sort: by ? `${by.desc ? "-" : ""}${by.id}` : "" });
    },
  });
  const { columns: all, mark, faint, raised } = p;
  const columns = useMemo(() => all.filter((c, i) => i === 0 || (visible[c.id] ?? true)), [all, visible]);
  const drag = p.drag !== undefined;
  const look = useMemo(() => ({ columns, mark, faint, raised, drag }), [columns, mark, faint, raised, drag]);
  const tracks = [p.mark ? "16px" : "", ...columns.map((c) => c.width)].filter(Boolean).join(" ");

  // Many rows: the lead row stands in the address, the rest only here.
  const [many, setMany] = useState<{ of: string; rows: Picked }>({ of: "", rows: nothing });
  const scope = JSON.stringify([id, name, asked]);
  const picked = many.of === scope ? many.rows : nothing;
  const pick = (rows: Picked) => setMany({ of: scope, rows });
  const at = useRef(-1);
  const anchor = useRef("");
  const [wrong, setWrong] = useState<unknown>(null);
  const grouped = (asked.group || p.groups?.[0]?.value || "none") !== "none";
  const snapshot = head?.snapshot ?? "";
  /** group chooses all rows under the same heading. */
  const group = (key: string) =>
    void api
      .get<Keys>(`${path}/keys`, { ...asked, beside: key })
      .then((k) => pick(those(snapshot, asked, k.keys, { beside: key })), setWrong);
  const lead = (i: number, row: R) => {
    at.current = i;
    p.onSelect(row.key, row);
  };
  const only = (i: number, row: R) => {
    anchor.current = row.key;
    if (picked.size > 0) pick(nothing);
    lead(i, row);
  };
  const range = (i: number, row: R) => {
    if (anchor.current === "") anchor.current = selected || row.key;
    lead(i, row);
    const from = anchor.current;
    api.get<Keys>(`${path}/keys`, asked).then(({ keys }) => {
      const [a, b] = [keys.indexOf(from), keys.indexOf(row.key)].sort((x, y) => x - y) as [number, number];
      pick(those(snapshot, asked, keys.slice(Math.max(0, a), b + 1), { from, to: row.key }));
    }, setWrong);
  };
  const click = (e: MouseEvent, i: number, row: R) => {
    if (e.shiftKey) range(i, row);
    else if (e.ctrlKey || e.metaKey) {
      anchor.current = row.key;
      pick(turned(picked.size > 0 ? picked : these(selected ? [selected] : []), row.key));
      lead(i, row);
    } else only(i, row);
  };
  const onScreen = items.find((v) => lineAt(v.index)?.row?.key === selected)?.index ?? -1;
  const move = (by: number, e: KeyboardEvent) => {
    const step = Math.sign(by);
    let i = (onScreen >= 0 ? onScreen : at.current) + by;
    i = Math.max(0, Math.min(total - 1, i));
    while (i >= 0 && i < total && lineAt(i)?.heading) i += step;
    const row = lineAt(i)?.row;
    if (!row) return;
    if (e.shiftKey) range(i, row);
    else only(i, row);
    list.scrollToIndex(i);
  };
  const page = () => Math.max(1, Math.floor((scroller.current?.clientHeight ?? 280) / height) - 1);

  const [choosing, setChoosing] = useState(false);
  const field = useRef<HTMLInputElement>(null);
  const [filter, setFilter] = useState(asked.filter ?? "");
  const [before, setBefore] = useState(asked.filter);
  if (before !== asked.filter) {
    setBefore(asked.filter);
    // Taken away from elsewhere; while one types, the address lags behind.
    if (asked.filter === "") setFilter("");
  }
  useKeys({
    j: (e) => move(1, e),
    ArrowDown: (e) => move(1, e),
    k: (e) => move(-1, e),
    ArrowUp: (e) => move(-1, e),
    PageDown: (e) => move(page(), e),
    PageUp: (e) => move(-page(), e),
    a: head ? () => pick(every(snapshot, asked, head.rows)) : undefined,
    f: grouped && selected ? () => group(selected) : undefined,
    Escape: picked.size > 0 ? () => pick(nothing) : undefined,
    "/": () => field.current?.focus(),
    o: () => setChoosing(true),
    ...p.keys?.(lineAt(onScreen)?.row ?? null, picked.size > 1 ? picked : these(selected ? [selected] : [])),
  });

  const [copied, setCopied] = useState("");
  const copy = async () => {
    const rows = await collect<R>(path, asked, picked);
    const lines = [columns.map((c) => c.title), ...rows.map((r) => columns.map((c) => c.text(r)))];
    await navigator.clipboard.writeText(lines.map((l) => l.map(tame).join("\t")).join("\n"));
    setCopied(scope + picked.size);
  };
  const title = (c: Column<R>) => {
    const sorted = table.getColumn(c.id)?.getIsSorted();
    return `${c.title}${sorted === "asc" ? " ↑" : sorted === "desc" ? " ↓" : ""}`;
  };

  return (
    <>
      <div
        role="group"
        aria-label={`Tools of the list ${p.label}`}
        className="flex min-h-9 flex-wrap items-center gap-2 border-y border-rule bg-band px-[18px] py-1"
      >
        {picked.size > 1 ? (
          <>
            <b className="font-medium">{plural(picked.size, "row")} chosen</b>
            <Button kind="small" onClick={() => void copy().catch(setWrong)}>
              {copied === scope + picked.size ? "Copied" : "Copy them"}
            </Button>
            {p.acts?.(picked, () => pick(nothing))}
            <span className="flex-1" />
            <Button kind="small" hint="Esc" onClick={() => pick(nothing)}>
              Choose none
            </Button>
          </>
        ) : (
          <>
            {p.lead}
            <input
              ref={field}
              type="search"
              aria-label={`Filter ${p.label}`}
              placeholder="Filter   /"
              value={filter}
              onChange={(e) => {
                setFilter(e.target.value);
                at.current = -1;
                place.set({ filter: e.target.value });
              }}
              onKeyDown={(e) => {
                if (e.key !== "Escape") return;
                e.preventDefault(); // which would empty the field
                e.currentTarget.blur();
              }}
              className="w-[104px] rounded-xs border border-rule bg-field px-2 py-0.5 text-ink"
            />
            {p.groups ? (
              <span className="flex items-center gap-1.5 text-[12px] text-faint">
                by
                <Choose
                  label="Group by"
                  value={asked.group || p.groups[0]?.value || ""}
                  choices={p.groups}
                  onChoose={(g) => place.set({ group: g === p.groups?.[0]?.value ? "" : g })}
                />
              </span>
            ) : null}
            <span className="ml-auto flex items-center gap-2.5 text-[12px] whitespace-nowrap text-faint">
              {head ? p.sums(head) : ""}
              <DropdownMenu.Root open={choosing} onOpenChange={setChoosing}>
                <DropdownMenu.Trigger className="underline hover:text-ink" {...tip("Which columns show  o")}>
                  columns
                </DropdownMenu.Trigger>
                <DropdownMenu.Portal>
                  <DropdownMenu.Content
                    align="end"
                    sideOffset={6}
                    className="z-20 min-w-44 border border-ink bg-sheet py-1 text-ink"
                  >
                    {p.columns.map((c, i) => (
                      <DropdownMenu.CheckboxItem
                        key={c.id}
                        checked={visible[c.id] ?? true}
                        disabled={i === 0}
                        onCheckedChange={(on) => table.getColumn(c.id)?.toggleVisibility(on)}
                        onSelect={(e) => e.preventDefault()}
                        className="flex cursor-pointer items-center gap-2 px-3 py-1 outline-none data-disabled:text-faint data-highlighted:bg-seawash"
                      >
                        <span aria-hidden className="grid size-3.5 place-items-center border border-ink2">
                          <DropdownMenu.ItemIndicator className="block size-2 bg-ink" />
                        </span>
                        {c.title}
                      </DropdownMenu.CheckboxItem>
                    ))}
                  </DropdownMenu.Content>
                </DropdownMenu.Portal>
              </DropdownMenu.Root>
              <a
                className="underline hover:text-ink"
                href={query(`/api/projects/${id}/csv/${name}.csv`, asked)}
                {...tip("Save what is listed as a table")}
              >
                CSV
              </a>
              {p.aside}
            </span>
          </>
        )}
      </div>
      <Trouble error={error ?? wrong} onAway={wrong ? () => setWrong(null) : undefined} />
      <div
        ref={scroller}
        role="grid"
        aria-label={p.label}
        aria-rowcount={head ? total + 1 : -1}
        aria-colcount={columns.length + (p.mark ? 1 : 0)}
        aria-multiselectable
        aria-activedescendant={selected && onScreen >= 0 ? `${name}-lead` : undefined}
        tabIndex={0}
        onClick={(e) => {
          const i = Number((e.target as Element).closest<HTMLElement>("[data-index]")?.dataset.index ?? -1);
          const row = lineAt(i)?.row;
          const under = lineAt(i)?.heading ? lineAt(i + 1)?.row : null;
          if (row) click(e, i, row);
          else if (under) {
            only(i + 1, under);
            group(under.key);
          }
        }}
        onMouseDown={(e) => e.shiftKey && e.preventDefault()}
        onDragStart={(e) => {
          const i = Number((e.target as Element).closest<HTMLElement>("[data-index]")?.dataset.index ?? -1);
          const row = lineAt(i)?.row;
          if (!p.drag || !row) return;
          e.dataTransfer.setData(p.drag, JSON.stringify(picked.has(row.key) ? picked.said : these([row.key]).said));
          e.dataTransfer.effectAllowed = "move";
        }}
        className="min-h-0 flex-1 overflow-auto -outline-offset-2 [scrollbar-gutter:stable]"
      >
        <div
          role="row"
          aria-rowindex={1}
          style={{ gridTemplateColumns: tracks }}
          className="sticky top-0 z-1 grid h-6 items-center gap-2 border-b border-rule bg-sheet px-[18px] text-[11.5px] text-faint"
        >
          {p.mark ? (
            <span role="columnheader">
              <span className="sr-only">state</span>
            </span>
          ) : null}
          {columns.map((c) => {
            const head = table.getColumn(c.id);
            const sorted = head?.getIsSorted();
            return (
              <span
                key={c.id}
                role="columnheader"
                aria-sort={sorted === "asc" ? "ascending" : sorted === "desc" ? "descending" : "none"}
                className={`min-w-0 truncate ${c.right ? "text-right" : ""}`}
              >
                <button
                  type="button"
                  onClick={head?.getToggleSortingHandler()}
                  className="max-w-full truncate hover:text-ink"
                >
                  {title(c)}
                </button>
              </span>
            );
          })}
        </div>
        {head && total === 0 ? (
          <div role="row">
            <div role="gridcell">
              {asked.filter ? <Empty title="Nothing fits that filter">Take a word away.</Empty> : p.empty}
            </div>
          </div>
        ) : null}
        <div role="presentation" className="relative" style={{ height: list.getTotalSize() }}>
          {items.map((v) => {
            const line = lineAt(v.index);
            const on = line?.row != null && line.row.key === selected;
            return (
              <Shown
                key={v.key}
                line={line as Line<unknown> | undefined}
                index={v.index}
                top={v.start - headHeight}
                height={v.size}
                tracks={tracks}
                id={on ? `${name}-lead` : undefined}
                on={on}
                also={line?.row != null && picked.has(line.row.key)}
                look={look as Look<unknown>}
              />
            );
          })}
        </div>
      </div>
    </>
  );
}

/** Look is how lines are drawn; it stays the same object while nothing of it changes. */
interface Look<R> {
  columns: readonly Column<R>[];
  mark: Props<R & { key: string }>["mark"];
  faint: ((row: R) => boolean) | undefined;
  raised: ((row: R) => boolean) | undefined;
  drag: boolean;
}

/** Shown is one line. While one scrolls only those that come into sight are drawn. */
const Shown = memo(function Shown({
  line,
  index,
  top,
  height,
  tracks,
  id,
  on,
  also,
  look,
}: {
  line: Line<unknown> | undefined;
  index: number;
  top: number;
  height: number;
  tracks: string;
  id: string | undefined;
  on: boolean;
  also: boolean;
  look: Look<unknown>;
}) {
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
            {...tip("Choose all rows under it  f")}
          >
            {line.heading.title}
          </button>
          <span className="font-frame text-[15px] font-semibold">{line.heading.count.toLocaleString("en-GB")}</span>
          <span className="truncate text-[12px] text-faint">{line.heading.note}</span>
        </div>
      ) : row !== null ? (
        <>
          {mark ? <div role="gridcell">{mark(row as { key: string }, "")}</div> : null}
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

/** tame keeps a cell in its place when it is pasted: no tabs, no line ends, and no formula. */
function tame(cell: string): string {
  const flat = cell.replace(/[\t\r\n]+/g, " ");
  return /^[=+\-@]/.test(flat) ? `'${flat}` : flat;
}

/** collect asks for the rows that are chosen, wherever in the list they lie, in its order. */
async function collect<R extends { key: string }>(path: string, asked: Record<string, string>, picked: Picked) {
  const rows: R[] = [];
  for (let offset = 0; rows.length < picked.size; offset += 500) {
    const w = await api.get<Lines<R>>(path, { ...asked, offset, limit: 500 });
    for (const l of w.lines) if (l.row && picked.has(l.row.key)) rows.push(l.row);
    if (w.lines.length < 500) break;
  }
  return rows;
}
