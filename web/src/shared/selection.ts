import type { Rows } from "../api/types";

/** Selection is how rows are told to the server: by their keys, or by what shows them. */
export interface Selection {
  keys: string[];
  rows: Rows | null;
}

/** Picked is a choice of rows of a list, of any number. */
export interface Picked {
  size: number;
  has: (key: string) => boolean;
  said: Selection;
}

/** these are rows by their keys. */
export function these(keys: Iterable<string>): Picked {
  const set = new Set(keys);
  return { size: set.size, has: (k) => set.has(k), said: { keys: [...set], rows: null } };
}

export const nothing = these([]);

/** every is all rows that a list shows; none of their keys is asked for. */
export function every(snapshot: string, asked: Record<string, string>, rows: number): Picked {
  return { size: rows, has: () => true, said: { keys: [], rows: asRows(snapshot, asked) } };
}

/** those are rows whose keys are known, and which stand together in the list. */
export function those(snapshot: string, asked: Record<string, string>, keys: string[], part: Partial<Rows>): Picked {
  const few = these(keys);
  return keys.length <= fewKeys ? few : { ...few, said: { keys: [], rows: { ...asRows(snapshot, asked), ...part } } };
}

/** So many are told by their keys, which outlive a new trace. */
const fewKeys = 500;

/** turned is a choice with one row more, or less. */
export function turned(of: Picked, key: string): Picked {
  const { rows, keys } = of.said;
  if (!rows) return these(of.has(key) ? keys.filter((k) => k !== key) : [...keys, key]);
  const but = rows.but ?? [];
  const out = of.has(key);
  return {
    size: of.size + (out ? -1 : 1),
    has: (k) => (k === key ? !out : of.has(k)),
    said: { keys: [], rows: { ...rows, but: out ? [...but, key] : but.filter((k) => k !== key) } },
  };
}

function asRows(snapshot: string, asked: Record<string, string>): Rows {
  const { filter = "", sort = "", group = "", ...facets } = asked;
  return { snapshot, filter, sort, group, facets, beside: "", from: "", to: "", but: [] };
}
