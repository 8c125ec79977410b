import {
  columnVisibilityFeature,
  rowSortingFeature,
  tableFeatures,
  useTable,
  type ColumnDef,
  type SortingState,
} from "@tanstack/react-table";
import { useMemo, useState } from "react";

import type { Column } from "./rows";

const features = tableFeatures({ columnVisibilityFeature, rowSortingFeature });
// Rows come from the server in windows; the table keeps which columns there are.
const none: never[] = [];
const kept = (name: string) => `columns:${name}`;

function remembered(name: string): Record<string, boolean> {
  try {
    return JSON.parse(localStorage.getItem(kept(name)) ?? "{}") as Record<string, boolean>;
  } catch {
    return {};
  }
}

/** useColumns keeps which columns of a list show, and by which it is sorted ("-size" from above). */
export function useColumns<R extends { key: string }>(
  name: string,
  all: readonly Column<R>[],
  sort: string,
  onSort: (sort: string) => void,
) {
  const [visible, setVisible] = useState<Record<string, boolean>>(() => ({
    ...Object.fromEntries(all.map((c) => [c.id, !c.extra])),
    ...remembered(name),
  }));
  const sorting: SortingState = sort ? [{ id: sort.replace(/^-/, ""), desc: sort.startsWith("-") }] : [];
  const table = useTable({
    features,
    data: none as R[],
    columns: all.map((c): ColumnDef<typeof features, R> => ({
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
      onSort(by ? `${by.desc ? "-" : ""}${by.id}` : "");
    },
  });
  const shown = useMemo(() => all.filter((c, i) => i === 0 || (visible[c.id] ?? true)), [all, visible]);
  return {
    shown,
    isShown: (c: Column<R>) => visible[c.id] ?? true,
    show: (c: Column<R>, on: boolean) => table.getColumn(c.id)?.toggleVisibility(on),
    sorted: (c: Column<R>) => table.getColumn(c.id)?.getIsSorted() ?? false,
    turn: (c: Column<R>) => table.getColumn(c.id)?.getToggleSortingHandler(),
  };
}

export type Columns<R extends { key: string }> = ReturnType<typeof useColumns<R>>;
