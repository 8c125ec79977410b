import { useSearchParams } from "react-router";

/** usePlace is what the address bar keeps of a view: filter, order, selection. Reload and share keep it. */
export function usePlace() {
  const [params, setParams] = useSearchParams();
  const set = (changes: Record<string, string>) =>
    setParams(
      (old) => {
        for (const [k, v] of Object.entries(changes))
          if (v) old.set(k, v);
          else old.delete(k);
        return old;
      },
      { replace: true },
    );
  return { get: (name: string) => params.get(name) ?? "", set };
}
