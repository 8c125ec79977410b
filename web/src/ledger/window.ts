import { useQueries } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useMemo, useRef, useState } from "react";

import type { asks } from "../api/client";

const page = 100;

/**
 * isNewer tells which of two snapshots is later. Of two starts of the server neither is: then the
 * answer that is asked for last is believed.
 */
function isNewer(a: string, b: string): boolean {
  const [start, n] = a.split("-");
  const [other, m] = b.split("-");
  return start !== other || Number(n) > Number(m);
}

/**
 * useWindow shows a list of any length: only the lines on screen exist, and only
 * the pages they lie in are asked for. Pages are remembered until the server
 * says the project changed; of two answers the newer snapshot's is believed.
 */
export function useWindow<L, P extends { snapshot: string; total: number; lines: L[] }>(
  ask: (offset: number, limit: number) => ReturnType<typeof asks<P>>,
  height: number,
  head: number,
) {
  const scroller = useRef<HTMLDivElement>(null);
  const [known, setKnown] = useState(0);
  // eslint-disable-next-line react-hooks/incompatible-library -- the list is meant to re-render as it scrolls
  const virtual = useVirtualizer({
    count: known,
    getScrollElement: () => scroller.current,
    estimateSize: () => height,
    overscan: 8,
    useFlushSync: false,
    scrollMargin: head,
    scrollPaddingStart: head,
  });
  const items = virtual.getVirtualItems();
  const from = Math.floor((items[0]?.index ?? 0) / page);
  const to = Math.floor((items.at(-1)?.index ?? 0) / page);
  const pages = useMemo(() => Array.from({ length: to - from + 1 }, (_, i) => from + i), [from, to]);
  const answers = useQueries({
    queries: pages.map((n) => ({
      ...ask(n * page, page),
      placeholderData: (old: P | undefined) => old,
    })),
  });
  const newest = answers.reduce<P | undefined>(
    (best, a) => (a.data && (!best || isNewer(a.data.snapshot, best.snapshot)) ? a.data : best),
    undefined,
  );
  const total = newest?.total ?? 0;
  if (newest && total !== known) setKnown(total);
  const lineAt = (i: number): L | undefined => {
    const at = pages.indexOf(Math.floor(i / page));
    return at < 0 ? undefined : answers[at]?.data?.lines[i % page];
  };
  const error = answers.find((a) => a.error)?.error ?? null;
  return { scroller, virtual, items, lineAt, total, head: newest, error };
}
