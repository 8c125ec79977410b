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

export function switchTheme() {
  localStorage.setItem(kept, document.documentElement.dataset.theme === "night" ? "day" : "night");
  apply();
}
