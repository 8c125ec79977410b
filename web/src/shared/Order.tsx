import { useState } from "react";

import { Field } from "./kit";

/** By tells how a list is sorted: by what of a row. */
export type By<T> = Record<string, (row: T) => string | number>;

/** Order is what a list is filtered and sorted by. */
export interface Order {
  filter: string;
  /** a name of what it is sorted by, with a hyphen before it to turn it round; "" is the list's own order */
  sort: string;
  setFilter: (words: string) => void;
  turn: (by: string) => void;
}

/** useOrder keeps what a list is filtered and sorted by: a second press turns the order, a third gives the first one back. */
export function useOrder(): Order {
  const [filter, setFilter] = useState("");
  const [sort, setSort] = useState("");
  return {
    filter,
    sort,
    setFilter,
    turn: (by) => setSort(sort === by ? `-${by}` : sort === `-${by}` ? "" : by),
  };
}

/** ordered are the rows whose text has all words of the filter, sorted. */
export function ordered<T>(list: readonly T[], o: Order, by: By<T>, text: (row: T) => string): T[] {
  const words = o.filter.toLowerCase().split(/\s+/).filter(Boolean);
  const shown = list.filter((row) => {
    const all = text(row).toLowerCase();
    return words.every((w) => all.includes(w));
  });
  const of = by[o.sort.replace(/^-/, "")];
  if (!of) return shown;
  const way = o.sort.startsWith("-") ? -1 : 1;
  const compare = (a: string | number, b: string | number) =>
    typeof a === "number" && typeof b === "number"
      ? a - b
      : String(a).localeCompare(String(b), undefined, { numeric: true });
  return shown.sort((x, y) => way * compare(of(x), of(y)));
}

/** OrderFilter is the line a list is filtered with. */
export const OrderFilter = ({ order, label }: { order: Order; label: string }) => (
  <Field
    low
    className="w-32"
    aria-label={label}
    placeholder="filter"
    value={order.filter}
    onChange={(e) => order.setFilter(e.target.value)}
  />
);

/** OrderHead is the head of a column; a press on it sorts by it. */
export function OrderHead({ order, by, word, right }: { order: Order; by: string; word: string; right?: boolean }) {
  const arrow = order.sort === by ? " ↑" : order.sort === `-${by}` ? " ↓" : "";
  return (
    <span className={`min-w-0 truncate ${right ? "text-right" : ""}`}>
      <button
        type="button"
        aria-label={`Sort by ${word}`}
        aria-pressed={arrow !== ""}
        className="max-w-full truncate hover:text-ink"
        onClick={() => order.turn(by)}
      >
        {word + arrow}
      </button>
    </span>
  );
}
