import { useSyncExternalStore } from "react";

/** The night watch: the system's setting unless the user chose. */
const kept = "theme";

function apply() {
  const dark = matchMedia("(prefers-color-scheme: dark)").matches;
  const chosen = localStorage.getItem(kept);
  document.documentElement.dataset.theme = chosen ?? (dark ? "night" : "day");
}

export function startTheme() {
  apply();
  matchMedia("(prefers-color-scheme: dark)").addEventListener("change", apply);
}

const listeners = new Set<() => void>();

export function setTheme(to: string) {
  localStorage.setItem(kept, to);
  apply();
  listeners.forEach((l) => l());
}

export const switchTheme = () => setTheme(theme() === "night" ? "day" : "night");

const theme = () => document.documentElement.dataset.theme ?? "day";

export const useTheme = () =>
  useSyncExternalStore((l) => {
    listeners.add(l);
    return () => listeners.delete(l);
  }, theme);
