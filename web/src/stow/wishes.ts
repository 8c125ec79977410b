import { useCallback } from "react";

import * as acts from "../api/acts";
import { useAct } from "../api/queries";
import type { Wish } from "../api/types";
import type { Selection } from "../ledger/selection";

/** useWishes says where files go in the crate, under which name, or whether they go at all. */
export function useWishes(id: number) {
  const wish = useAct((w: Wish) => acts.wish(id, w));
  const { mutate } = wish;
  const say = useCallback(
    (of: Selection, w: Partial<Wish>) => mutate({ ...of, folder: null, name: null, stays: null, reset: false, ...w }),
    [mutate],
  );
  return { say, busy: wish.isPending, error: wish.error, forget: wish.reset };
}
