import { useEffect } from "react";

import { keptList } from "../shared/keptList";

/** The projects opened last, by id, on this machine. */
const kept = keptList<number>("boundcrate.recent", "number", 50);

/** useRecent remembers that a project was opened; 0 is none. */
export function useRecent(id: number) {
  useEffect(() => {
    if (id > 0) kept.put(id);
  }, [id]);
}

/** byRecent orders projects: those opened last first, the others as they come. */
export function byRecent<P extends { id: number }>(list: readonly P[]): P[] {
  const order = kept.read();
  const at = (p: P) => (order.includes(p.id) ? order.indexOf(p.id) : order.length);
  return [...list].sort((a, b) => at(a) - at(b));
}
