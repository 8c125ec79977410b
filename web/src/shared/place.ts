import { useSearchParams } from "react-router";

/** usePlace is what the address bar keeps of a view: filter, order, selection. Reload and share keep it. */
export function usePlace() {
  const [params, setParams] = useSearchParams();
  const set = (changes: Record<string, string>) => {
    // From the address itself: what was drawn last may be older, and would bring back what was changed since.
    const now = new URLSearchParams(window.location.search);
    for (const [k, v] of Object.entries(changes))
      if (v) now.set(k, v);
      else now.delete(k);
    setParams(now, { replace: true });
  };
  return { get: (name: string) => params.get(name) ?? "", set };
}
