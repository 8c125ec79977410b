import type { Rows, Stretch } from "../api/types";
import { atOnce, collect, type Asked, type List } from "./rows";

/** Selection is how rows are told to the server: by their keys, or by what shows them. */
export interface Selection {
  keys: string[];
  rows: Rows | null;
}

/** Picked is a choice of rows of a list, of any number: whether one is in it goes by its key and its line. */
export interface Picked {
  size: number;
  has: (key: string, at: number) => boolean;
  said: Selection;
}

/** these are rows by their keys. */
export function these(keys: Iterable<string>): Picked {
  const set = new Set(keys);
  return { size: set.size, has: (k) => set.has(k), said: { keys: [...set], rows: null } };
}

export const nothing = these([]);

/** every is all rows that a list shows; none of their keys is asked for. */
export function every(snapshot: string, asked: Asked, rows: number): Picked {
  return { size: rows, has: () => true, said: { keys: [], rows: asRows(snapshot, asked) } };
}

/**
 * together are rows that stand together. A few are told by their keys, which outlive a new
 * trace; of many the server knows which they are.
 */
export async function together(list: List, x: Stretch, part: Partial<Rows>): Promise<Picked> {
  if (x.rows === 0) return nothing; // the list does not show them any more
  if (x.last - x.first >= atOnce)
    return {
      size: x.rows,
      has: (_, at) => at >= x.first && at <= x.last,
      said: { keys: [], rows: { ...asRows(x.snapshot, list.asked), ...part } },
    };
  const keys: string[] = [];
  for await (const { row } of collect<{ key: string }>(list, x.first, x.last)) keys.push(row.key);
  return these(keys);
}

/** turned is a choice with one row more, or less. */
export function turned(of: Picked, key: string, at: number): Picked {
  const { rows, keys } = of.said;
  const out = of.has(key, at);
  if (!rows) return these(out ? keys.filter((k) => k !== key) : [...keys, key]);
  const but = rows.but ?? [];
  return {
    size: of.size + (out ? -1 : 1),
    has: (k, line) => (k === key ? !out : of.has(k, line)),
    said: { keys: [], rows: { ...rows, but: out ? [...but, key] : but.filter((k) => k !== key) } },
  };
}

function asRows(snapshot: string, asked: Asked): Rows {
  const { filter = "", sort = "", group = "", ...facets } = asked;
  return { snapshot, filter, sort, group, facets, beside: "", from: "", to: "", but: [] };
}
