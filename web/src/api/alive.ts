import { useSyncExternalStore } from "react";

let alive = true;
const listeners = new Set<() => void>();

/** setAlive keeps whether the line to the server stands. */
export function setAlive(now: boolean) {
  if (alive === now) return;
  alive = now;
  listeners.forEach((l) => l());
}

/** useAlive tells whether the server responds, as far as the line of events knows. */
export const useAlive = () =>
  useSyncExternalStore(
    (l) => {
      listeners.add(l);
      return () => listeners.delete(l);
    },
    () => alive,
  );
