const kept = "boundcrate.places";
const most = 5;

/** lastPlaces are the folders that were chosen last, whole paths, on this machine. */
export function lastPlaces(): string[] {
  try {
    const list: unknown = JSON.parse(localStorage.getItem(kept) ?? "[]");
    return Array.isArray(list) ? list.filter((x) => typeof x === "string") : [];
  } catch {
    return [];
  }
}

/** rememberPlace puts a folder first among them. */
export function rememberPlace(path: string) {
  if (path !== "")
    localStorage.setItem(kept, JSON.stringify([path, ...lastPlaces().filter((p) => p !== path)].slice(0, most)));
}
