import { useRef, useState, type MouseEvent } from "react";

import { askStretch, type Line, type List } from "./rows";
import { every, nothing, these, together, turned, type Picked } from "./selection";

interface Of<R> {
  list: List;
  /** the row that leads, which stands in the address */
  selected: string;
  onSelect: (key: string, row: R) => void;
  onNone: (() => void) | undefined;
  lineAt: (i: number) => Line<R> | undefined;
  total: number;
  snapshot: string;
  onWrong: (e: unknown) => void;
}

/** usePicking is one row of a list that leads, and the many that are chosen with it. */
export function usePicking<R extends { key: string }>({ list, selected, onSelect, lineAt, total, ...of }: Of<R>) {
  const [many, setMany] = useState<{ of: string; rows: Picked }>({ of: "", rows: nothing });
  const scope = JSON.stringify(list);
  const picked = many.of === scope ? many.rows : nothing;
  const pick = (rows: Picked) => setMany({ of: scope, rows });
  const at = useRef(-1);
  const anchor = useRef("");

  /** group chooses all rows under the same heading. */
  const group = (beside: string) => stretch({ beside });
  const stretch = (part: { from?: string; to?: string; beside?: string }) =>
    void askStretch(list, part)
      .queryFn()
      .then((x) => together(list, x, part))
      .then(pick, of.onWrong);
  const lead = (i: number, row: R) => {
    at.current = i;
    onSelect(row.key, row);
  };
  const only = (i: number, row: R) => {
    anchor.current = row.key;
    if (picked.size > 0) pick(nothing);
    lead(i, row);
  };
  const range = (i: number, row: R) => {
    if (anchor.current === "") anchor.current = selected || row.key;
    lead(i, row);
    stretch({ from: anchor.current, to: row.key });
  };
  const click = (e: MouseEvent, i: number) => {
    const row = lineAt(i)?.row;
    const under = lineAt(i)?.heading ? lineAt(i + 1)?.row : null;
    if (under) {
      only(i + 1, under);
      group(under.key);
    } else if (row && e.shiftKey) range(i, row);
    else if (row && (e.ctrlKey || e.metaKey)) {
      anchor.current = row.key;
      pick(turned(picked.size > 0 ? picked : these(selected ? [selected] : []), row.key, i));
      lead(i, row);
    } else if (row && row.key === selected && picked.size === 0 && of.onNone) of.onNone();
    else if (row) only(i, row);
  };
  /** move leads to a row further on; it tells its line. */
  const move = (by: number, onScreen: number, e: KeyboardEvent) => {
    let i = (onScreen >= 0 ? onScreen : at.current) + by;
    i = Math.max(0, Math.min(total - 1, i));
    while (i >= 0 && i < total && lineAt(i)?.heading) i += Math.sign(by);
    const row = lineAt(i)?.row;
    if (!row) return -1;
    if (e.shiftKey) range(i, row);
    else only(i, row);
    return i;
  };
  return {
    picked,
    /** what is chosen, be it the one row that leads */
    chosen: picked.size > 1 ? picked : these(selected ? [selected] : []),
    scope,
    click,
    move,
    group,
    all: (rows: number) => pick(every(of.snapshot, list.asked, rows)),
    none: () => pick(nothing),
    forget: () => (at.current = -1),
  };
}
