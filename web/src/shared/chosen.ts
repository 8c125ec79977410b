import { useState } from "react";

/**
 * useChosen is a choice among things of a document that outlives its being traced
 * again, when the same things come under other numbers. They are told by what they
 * are: the document, the owner, and which of several equal ones.
 */
export function useChosen<T extends { document: string; owner: string }>(list: readonly T[], first: (t: T) => boolean) {
  const [said, setSaid] = useState<Record<string, boolean>>({});
  const keys = keysOf(list);
  const has = (t: T) => said[keys.get(t) ?? ""] ?? first(t);
  return {
    has,
    key: (t: T) => keys.get(t) ?? "",
    toggle: (t: T) => setSaid({ ...said, [keys.get(t) ?? ""]: !has(t) }),
    only: (some: (t: T) => boolean) => setSaid(Object.fromEntries(list.map((t) => [keys.get(t), some(t)]))),
  };
}

function keysOf<T extends { document: string; owner: string }>(list: readonly T[]) {
  const met = new Map<string, number>();
  return new Map(
    list.map((t) => {
      const name = `${t.document}\n${t.owner}`;
      const nth = met.get(name) ?? 0;
      met.set(name, nth + 1);
      return [t, `${name}\n${nth}`];
    }),
  );
}
