import { useEffect } from "react";

/**
 * useKeys runs an action for a single key, unless the user is writing, or
 * a dialog or menu is open.
 */
export function useKeys(actions: Record<string, (e: KeyboardEvent) => void>) {
  useEffect(() => {
    const on = (e: KeyboardEvent) => {
      if (e.ctrlKey || e.metaKey || e.altKey) return;
      const at = e.target as HTMLElement;
      if (at.closest("input, textarea, select, [contenteditable], [role=dialog], [role=menu]")) return;
      if ((e.key === " " || e.key === "Enter") && at.closest("button, a, audio")) return;
      const act = actions[e.key];
      if (act) {
        e.preventDefault();
        act(e);
      }
    };
    window.addEventListener("keydown", on);
    return () => window.removeEventListener("keydown", on);
  }, [actions]);
}
