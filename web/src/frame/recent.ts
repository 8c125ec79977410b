import { useEffect } from "react";

const kept = "boundcrate.recent";

/** The projects opened last, by id, on this machine; the latest first. */
export function recent(): number[] {
  try {
    const list: unknown = JSON.parse(localStorage.getItem(kept) ?? "[]");
    return Array.isArray(list) ? list.filter((x) => typeof x === "number") : [];
  } catch {
    return [];
  }
}

/** useRecent remembers that a project was opened; 0 is none. */
export function useRecent(id: number) {
  useEffect(() => {
    if (id > 0) localStorage.setItem(kept, JSON.stringify([id, ...recent().filter((x) => x !== id)].slice(0, 50)));
  }, [id]);
}

/** byRecent orders projects: those opened last first, the others as they come. */
export function byRecent<P extends { id: number }>(list: readonly P[]): P[] {
  const order = recent();
  const at = (p: P) => (order.includes(p.id) ? order.indexOf(p.id) : order.length);
  return [...list].sort((a, b) => at(a) - at(b));
}
