import { useMemo, useRef, useState } from "react";
import { useSearchParams } from "react-router";

import { api, query } from "../api/client";
import { useAct, useProjectID, useSummary } from "../api/queries";
import type { Row, Rows, Started } from "../api/types";
import { useWindow } from "../api/window";
import { Station } from "../frame/Station";
import { useKeys } from "../shared/keys";
import { Mark } from "../shared/Mark";
import { Badge, Chip, Empty, Trouble } from "../shared/parts";
import { bytes, exact, plural } from "../shared/words";
import { Slip } from "./Slip";
import { Spread } from "./Spread";
import { Verdict } from "./Verdict";

const groups = ["state", "place", "kind", "document", "none"] as const;
const grid = "grid grid-cols-[16px_minmax(150px,1.25fr)_minmax(0,1.5fr)_70px_90px_46px] items-center gap-2 px-[18px]";

/** Trace: what does it use, and where does that live? */
export function Trace() {
  const id = useProjectID();
  const [place, setPlace] = useSearchParams();
  const { data: summary } = useSummary(id);
  const retrace = useAct(() => api.post<Started>(`/projects/${id}/trace`));
  const set = (changes: Record<string, string>) =>
    setPlace(
      (old) => {
        for (const [k, v] of Object.entries(changes)) if (v) old.set(k, v);
        else old.delete(k);
        return old;
      },
      { replace: true },
    );
  useKeys(useMemo(() => ({ t: () => retrace.mutate(undefined) }), [retrace]));
  const selected = place.get("sel") ?? "";
  if (!summary) return null;
  const sheet = (
    <>
      <Verdict summary={summary} onState={(s) => set(s === "gaps" ? { kind: "sequence", state: "", place: "" } : { state: s, kind: "", place: "" })} />
      <Spread summary={summary} chosen={place.get("place") ?? ""} onPlace={(p) => set({ place: p, state: "" })} onMissing={() => set({ state: "missing", place: "" })} />
      <Ledger id={id} place={place} set={set} selected={selected} onTrace={() => retrace.mutate(undefined)} />
    </>
  );
  return <Station name="Trace" slipName="What is selected" sheet={sheet} slip={<Slip id={id} selected={selected} summary={summary} onState={(s) => set({ state: s, kind: "", place: "" })} />} />;
}

const columns = [
  { id: "name", word: "file" },
  { id: "place", word: "where" },
  { id: "kind", word: "kind" },
  { id: "size", word: "size" },
  { id: "uses", word: "uses" },
];

function Ledger({ id, place, set, selected, onTrace }: { id: number; place: URLSearchParams; set: (c: Record<string, string>) => void; selected: string; onTrace: () => void }) {
  const asked = {
    filter: place.get("filter") ?? "",
    state: place.get("state") ?? "",
    kind: place.get("kind") ?? "",
    place: place.get("place") ?? "",
    sort: place.get("sort") ?? "",
    group: place.get("group") ?? "state",
  };
  const [filter, setFilter] = useState(asked.filter);
  const field = useRef<HTMLInputElement>(null);
  const { scroller, list, items, rowAt, total, head, error } = useWindow<Rows, Row>(["project", id, "rows", asked], (offset, limit) => api.get<Rows>(`/projects/${id}/rows`, { ...asked, offset, limit }), (p) => p.rows, 28);
  const at = useRef(-1);
  const select = (i: number, row: Row) => {
    at.current = i;
    set({ sel: row.key });
  };
  const move = (by: number) => {
    let i = at.current;
    if (i < 0) i = items.find((v) => rowAt(v.index)?.key === selected)?.index ?? -1;
    for (i += by; i >= 0 && i < total; i += by) {
      const row = rowAt(i);
      if (!row) return;
      if (row.heading) continue;
      select(i, row);
      list.scrollToIndex(i);
      return;
    }
  };
  useKeys({ j: () => move(1), ArrowDown: () => move(1), k: () => move(-1), ArrowUp: () => move(-1), "/": () => field.current?.focus() });
  const sort = (by: string) => set({ sort: asked.sort === by ? `-${by}` : asked.sort === `-${by}` ? "" : by });
  const narrowed = [asked.state && `state: ${asked.state}`, asked.kind && `kind: ${asked.kind}`, asked.place && `place: ${asked.place.split("/").at(-1)}`].filter(Boolean);
  return (
    <>
      <div className="flex flex-wrap items-center gap-2 border-y border-rule bg-band px-[18px] py-1.5">
        <input
          ref={field}
          type="search"
          aria-label="Filter by any word"
          placeholder="Filter by any word   /"
          value={filter}
          onChange={(e) => {
            setFilter(e.target.value);
            at.current = -1;
            set({ filter: e.target.value });
          }}
          onKeyDown={(e) => e.key === "Escape" && e.currentTarget.blur()}
          className="w-[180px] rounded-xs border border-rule bg-field px-2 py-0.5 text-ink"
        />
        {groups.map((g) => (
          <Chip key={g} on={asked.group === g} onClick={() => set({ group: g === "state" ? "" : g })}>
            {g === "none" ? "one list" : `by ${g}`}
          </Chip>
        ))}
        {narrowed.map((n) => (
          <button key={String(n)} type="button" onClick={() => set({ state: "", kind: "", place: "" })} className="rounded-xs border border-sea bg-seawash px-2 py-0.5 text-[12px]" title="Show all again">
            {n} ×
          </button>
        ))}
        <span className="ml-auto flex items-center gap-2 text-[12px] whitespace-nowrap text-faint">
          {head ? `${plural(head.references, "reference")} · ${plural(head.files, "file")} · ${bytes(head.bytes)}` : ""}
          <a className="underline hover:text-ink" href={query(`/api/projects/${id}/rows.csv`, asked)}>
            CSV
          </a>
          <button type="button" className="underline hover:text-ink" onClick={onTrace} title="Look at everything again (t)">
            trace again
          </button>
        </span>
      </div>
      <div className={`${grid} h-6 overflow-hidden border-b border-rule text-[11.5px] text-faint [scrollbar-gutter:stable]`}>
        <span />
        {columns.map((c) => (
          <button key={c.id} type="button" onClick={() => sort(c.id)} className={`truncate hover:text-ink ${c.id === "size" || c.id === "uses" ? "text-right" : "text-left"}`} aria-label={`Sort by ${c.word}`}>
            {c.word}
            {asked.sort === c.id ? " ↑" : asked.sort === `-${c.id}` ? " ↓" : ""}
          </button>
        ))}
      </div>
      <Trouble error={error} />
      <div ref={scroller} className="min-h-0 flex-1 overflow-auto [scrollbar-gutter:stable]" role="listbox" aria-label="References" aria-activedescendant={selected ? "row-selected" : undefined} tabIndex={0}>
        {head && total === 0 ? <Empty title="Nothing fits that filter">Take a word away, or choose another place.</Empty> : null}
        <div className="relative" style={{ height: list.getTotalSize() }}>
          {items.map((v) => {
            const row = rowAt(v.index);
            return (
              <div key={v.key} className="absolute inset-x-0" style={{ transform: `translateY(${v.start}px)`, height: v.size }}>
                {row ? <Line row={row} on={row.key !== "" && row.key === selected} onSelect={() => select(v.index, row)} /> : null}
              </div>
            );
          })}
        </div>
      </div>
    </>
  );
}

function size(row: Row): { text: string; title: string } {
  if (row.kind === "sequence" && row.of > 0) return { text: `${row.files} of ${row.of}`, title: exact(row.size) };
  if (["missing", "twins", "unsaved"].includes(row.state) || row.badges.includes("write point") || (row.state === "unplugged" && row.size === 0)) return { text: "—", title: "" };
  return { text: bytes(row.size), title: exact(row.size) };
}

function Line({ row, on, onSelect }: { row: Row; on: boolean; onSelect: () => void }) {
  if (row.heading) {
    return (
      <div className="flex h-7 items-center gap-2.5 border-b border-rule bg-band px-[18px]">
        {row.state ? <Mark state={row.state} /> : null}
        <b className="truncate font-frame text-[15px] font-semibold">{row.heading}</b>
        <span className="font-frame text-[15px] font-semibold">{row.count}</span>
        <span className="truncate text-[12px] text-faint">{row.note}</span>
      </div>
    );
  }
  const s = size(row);
  return (
    <div id={on ? "row-selected" : undefined} role="option" aria-selected={on} onClick={onSelect} className={`${grid} h-7 cursor-pointer border-b border-hair ${on ? "bg-seawash shadow-[inset_3px_0_0_var(--sea)]" : "hover:bg-band"}`}>
      <Mark state={row.state} />
      <span className="flex min-w-0 items-center gap-2">
        <span className="truncate font-medium" title={row.name}>
          {row.name}
        </span>
        {row.badges.map((b) => (
          <Badge key={b} tone={b === "mended" ? "moss" : ["loosely spelled", "guess", "write point"].includes(b) ? "sea" : "ochre"}>
            {b}
          </Badge>
        ))}
      </span>
      <span className="truncate font-mono text-[12px] text-faint" title={row.common + row.parting}>
        {row.common}
        <b className="font-medium text-ink">{row.parting}</b>
      </span>
      <span className="truncate text-[12px] text-ink2">{row.kind}</span>
      <span className="text-right font-mono text-[12px] whitespace-nowrap tabular-nums" title={s.title}>
        {s.text}
      </span>
      <span className="text-right font-mono text-[12px] tabular-nums">{row.uses}</span>
    </div>
  );
}
