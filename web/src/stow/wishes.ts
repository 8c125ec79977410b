import { useCallback } from "react";

import { api } from "../api/client";
import { useAct } from "../api/queries";
import type { Wish } from "../api/types";

/** useWishes says where files go in the crate, under which name, or whether they go at all. */
export function useWishes(id: number) {
  const wish = useAct((w: Wish) => api.put(`/projects/${id}/berths`, w));
  const { mutate } = wish;
  const say = useCallback(
    (keys: string[], w: Partial<Wish>) => mutate({ keys, folder: null, name: null, stays: null, reset: false, ...w }),
    [mutate],
  );
  return { say, busy: wish.isPending, error: wish.error, forget: wish.reset };
}
