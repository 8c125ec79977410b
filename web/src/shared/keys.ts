import { useSyncExternalStore } from "react";
import { useHotkeys } from "react-hotkeys-hook";

/** Keys that only move may be held down; an act happens once a press. */
const moving = new Set(["j", "k", "arrowdown", "arrowup", "pagedown", "pageup", "home", "end"]);

const kept = "keys";
const listeners = new Set<() => void>();

/** singleKeys tells whether single letters, digits and signs are keys (WCAG 2.2 §2.1.4). */
const singleKeys = () => localStorage.getItem(kept) !== "off";

/** setSingleKeys turns them off, for those who speak or tremble their input, and on again. */
export function setSingleKeys(on: boolean) {
  localStorage.setItem(kept, on ? "on" : "off");
  listeners.forEach((l) => l());
}

export function useSingleKeys(): boolean {
  return useSyncExternalStore((l) => {
    listeners.add(l);
    return () => listeners.delete(l);
  }, singleKeys);
}

export type Actions = Record<string, ((e: KeyboardEvent) => void) | undefined>;

/**
 * useKeys runs an action for a key (named as KeyboardEvent.key names it), unless
 * the user is writing, a dialog or menu is open, or what has the focus has a use
 * for the key itself.
 */
export function useKeys(actions: Actions) {
  const single = useSingleKeys();
  const lower: Actions = Object.fromEntries(Object.entries(actions).map(([k, act]) => [k.toLowerCase(), act]));
  const run = (e: KeyboardEvent) => lower[e.key.toLowerCase()]?.(e);
  const options = {
    useKey: true,
    ignoreModifiers: true,
    preventDefault: true,
    enableOnFormTags: ["radio"] as const,
    ignoreEventWhen: (e: KeyboardEvent) => {
      const at = e.target as HTMLElement;
      const key = e.key.toLowerCase();
      if (e.ctrlKey || e.metaKey || e.altKey || lower[key] === undefined) return true;
      if (at.closest("[role=dialog], [role=alertdialog], [role=menu]")) return true;
      if ((key === " " || key === "enter") && at.closest("button, a, audio, summary")) return true;
      if (key.startsWith("arrow") && at.closest("[role=radiogroup], [role=group][data-toggles]")) return true;
      if (key.length === 1 && key !== " " && !single) return true;
      return e.repeat && !moving.has(key);
    },
  };
  const names = Object.keys(lower).filter((k) => k !== " " && lower[k]);
  useHotkeys(names, run, { ...options, enabled: names.length > 0 });
  // The library trims the names of keys, so the space bar goes by its code.
  useHotkeys("space", run, { ...options, useKey: false, enabled: lower[" "] !== undefined });
}
