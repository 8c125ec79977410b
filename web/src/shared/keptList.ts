/** keptList is a short list that a browser keeps on this machine, the latest first. */
export function keptList<T extends string | number>(key: string, kind: "string" | "number", most: number) {
  const read = (): T[] => {
    try {
      const list: unknown = JSON.parse(localStorage.getItem(key) ?? "[]");
      return Array.isArray(list) ? list.filter((x): x is T => typeof x === kind) : [];
    } catch {
      return []; // somebody else's text
    }
  };
  const put = (x: T) => localStorage.setItem(key, JSON.stringify([x, ...read().filter((y) => y !== x)].slice(0, most)));
  return { read, put };
}
