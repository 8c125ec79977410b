import { useQueries } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useMemo, useRef, useState } from "react";

const page = 100;

/**
 * useWindow shows a list of any length: only the rows on screen exist, and only
 * the pages they lie in are asked for. Pages are remembered until the server
 * says the project changed.
 */
export function useWindow<P extends { total: number }, R>(key: unknown[], ask: (offset: number, limit: number) => Promise<P>, rowsOf: (p: P) => R[], height: number) {
  const scroller = useRef<HTMLDivElement>(null);
  const [known, setKnown] = useState(0);
  // eslint-disable-next-line react-hooks/incompatible-library -- the list is meant to re-render as it scrolls
  const list = useVirtualizer({ count: known, getScrollElement: () => scroller.current, estimateSize: () => height, overscan: 12 });
  const items = list.getVirtualItems();
  const pages = useMemo(() => {
    const from = Math.floor((items[0]?.index ?? 0) / page);
    const to = Math.floor((items.at(-1)?.index ?? 0) / page);
    return Array.from({ length: to - from + 1 }, (_, i) => from + i);
  }, [items]);
  const answers = useQueries({
    queries: pages.map((n) => ({ queryKey: [...key, n], queryFn: () => ask(n * page, page), placeholderData: (old: P | undefined) => old })),
  });
  const head = answers.find((a) => a.data)?.data;
  const total = head?.total ?? 0;
  if (head && total !== known) setKnown(total);
  const rowAt = (i: number): R | undefined => {
    const at = pages.indexOf(Math.floor(i / page));
    const data = at < 0 ? undefined : answers[at]?.data;
    return data ? rowsOf(data)[i % page] : undefined;
  };
  return { scroller, list, items, rowAt, total, head, error: answers.find((a) => a.error)?.error ?? null, loading: !head && answers.some((a) => a.isLoading) };
}
