import type { Edition } from "../api/types";

/** Lane is where a line of editions is drawn, and between which rows. */
interface Lane {
  at: number;
  from: number;
  to: number;
  /** the lane it branches off from, in the row `from` */
  off: number | null;
}

/** Row is an edition, or the heading of a day. */
export type Row = { day: string } | { edition: Edition };

/** byTime orders editions as time runs. */
export const byTime = (list: readonly Edition[]) =>
  [...list].sort((a, b) => Date.parse(a.at) - Date.parse(b.at) || a.id - b.id);

/** rowsOf puts a heading before the editions of each day. */
export function rowsOf(list: readonly Edition[]): Row[] {
  const rows: Row[] = [];
  let last = "";
  for (const edition of list) {
    const day = new Date(edition.at).toDateString();
    if (day !== last) rows.push({ day: edition.at });
    last = day;
    rows.push({ edition });
  }
  return rows;
}

/** lanesOf lays lines side by side: one that has ended leaves its place to the next. */
export function lanesOf(rows: readonly Row[]): Lane[] {
  const place = new Map<number, number>();
  const lines = new Map<number, { from: number; to: number; parent: number }>();
  rows.forEach((r, i) => {
    if (!("edition" in r)) return;
    const e = r.edition;
    place.set(e.id, i);
    const known = lines.get(e.line);
    if (known) known.to = i;
    else lines.set(e.line, { from: place.get(e.from) ?? i, to: i, parent: e.from });
  });
  const lineOf = new Map<number, number>();
  for (const r of rows) if ("edition" in r) lineOf.set(r.edition.id, r.edition.line);
  const taken: number[] = []; // the row at which each place is free again
  const at = new Map<number, number>();
  const out: Lane[] = [];
  for (const [line, l] of [...lines].sort((a, b) => a[1].from - b[1].from || a[0] - b[0])) {
    let n = taken.findIndex((free) => free < l.from);
    if (n < 0) n = taken.length;
    taken[n] = l.to;
    at.set(line, n);
    const parent = lineOf.get(l.parent);
    const off = parent === undefined || parent === line ? null : (at.get(parent) ?? null);
    out.push({ at: n, from: l.from, to: l.to, off });
  }
  return out;
}

/** Strokes are what of the lanes is drawn in one row. */
export interface Strokes {
  up: number[];
  down: number[];
  across: [number, number][];
  /** the lane of the row's own edition */
  own: number | null;
}

/** strokesOf are those of every row. */
export function strokesOf(rows: readonly Row[]): { strokes: Strokes[]; width: number } {
  const lanes = lanesOf(rows);
  const strokes: Strokes[] = rows.map(() => ({ up: [], down: [], across: [], own: null }));
  for (const l of lanes) {
    for (let i = l.from; i <= l.to; i++) {
      const s = strokes[i];
      if (!s) continue;
      if (i > l.from) s.up.push(l.at);
      if (i < l.to) s.down.push(l.at);
      if (i === l.from && l.off !== null) s.across.push([l.off, l.at]);
    }
  }
  const laneAt = new Map<number, number>();
  rows.forEach((r, i) => {
    if (!("edition" in r)) return;
    // The lane of its line is the one that runs through this row and began with it.
    const e = r.edition;
    const lane = laneAt.get(e.line) ?? lanes.find((l) => l.from <= i && i <= l.to && firstOf(rows, l) === e.line)?.at;
    if (lane !== undefined) laneAt.set(e.line, lane);
    const s = strokes[i];
    if (s) s.own = lane ?? 0;
  });
  return { strokes, width: Math.max(1, ...lanes.map((l) => l.at + 1)) };
}

function firstOf(rows: readonly Row[], l: Lane): number | undefined {
  const r = rows[l.to];
  return r && "edition" in r ? r.edition.line : undefined;
}
