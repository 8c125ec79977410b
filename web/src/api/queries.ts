import { keepPreviousData, useInfiniteQuery, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { flushSync } from "react-dom";
import { useLocation, useParams } from "react-router";

import * as acts from "./acts";
import type { Change } from "./client";
import type { Stow, StowOptions } from "./types";

export const useAppState = () => useQuery(acts.state());

/** useProjectID is the project of the address bar. */
export function useProjectID(): number {
  return Number(useParams().id ?? 0);
}

/** ofProject asks about a project, where there is one; meanwhile the last answer stands. */
const ofProject = <Q extends object>(id: number, q: Q) => ({
  ...q,
  enabled: id > 0,
  placeholderData: keepPreviousData,
});

export const useSummary = (id: number) => useQuery(ofProject(id, acts.summary(id)));
/**
 * useLook asks the disk again when a page is opened or comes back into sight:
 * what it shows may be hours old.
 */
export function useLook(id: number) {
  const { pathname } = useLocation();
  useEffect(() => {
    const look = () => {
      // Whoever cannot be asked says so in the questions the page shows.
      if (id > 0 && !document.hidden)
        acts
          .refresh(id)
          .run()
          .catch(() => undefined);
    };
    look();
    document.addEventListener("visibilitychange", look);
    return () => document.removeEventListener("visibilitychange", look);
  }, [id, pathname]);
}

export const useMend = (id: number) => useQuery(ofProject(id, acts.mend(id)));
export const useStow = (id: number) => useQuery(ofProject(id, acts.stow(id)));
export const useSealed = (id: number) => useQuery(ofProject(id, acts.sealed(id)));
export const useDecisions = (id: number) => useQuery(ofProject(id, acts.decisions(id)));

/** What belongs to a row; the answer for another row is never shown in its place. */
export const useSlip = (id: number, key: string) =>
  useQuery({ ...acts.slip(id, { key }), enabled: id > 0 && key !== "" });
export const useWanted = (id: number, key: string) =>
  useQuery({ ...acts.wanted(id, { key }), enabled: id > 0 && key !== "" });

/**
 * useFolder lists a folder, part by part: of 200,000 files only those that are
 * looked at are asked for. With machine it is any folder of this machine, else
 * one within the drives.
 */
export const useFolder = (path: string, holds: string, machine: boolean) => {
  const part = (from: number) => (machine ? acts.machine : acts.browse)({ path, q: holds, from });
  return useInfiniteQuery({
    queryKey: part(0).queryKey,
    queryFn: ({ pageParam, signal }) => part(pageParam).queryFn({ signal }),
    initialPageParam: 0,
    getNextPageParam: (last, pages) => {
      const have = pages.reduce((n, p) => n + p.entries.length, 0);
      return have < last.total && last.entries.length > 0 ? have : undefined;
    },
    staleTime: 0,
    placeholderData: keepPreviousData,
  });
};

/**
 * useAct runs a change and then asks for what it may have touched. Changes of one
 * scope run one after the other.
 */
export function useAct<In, Out>(act: (input: In) => Change<Out>, done?: (out: Out, input: In) => void, scope?: string) {
  const client = useQueryClient();
  return useMutation<Out, Error, In>({
    mutationFn: (input) => act(input).run(),
    ...(scope ? { scope: { id: scope } } : {}),
    onSuccess: (out, input) => {
      // What the page lets go of is not asked for once more.
      flushSync(() => done?.(out, input));
      for (const queryKey of act(input).stale) void client.invalidateQueries({ queryKey });
    },
  });
}

/** choosing is the scope of a project's choices, and of what is done by them. */
export const choosing = (id: number) => `choices ${id}`;

/**
 * useChoices changes some of a project's choices, each time those that the last change left;
 * a change of one that leans on what it was is told as a function.
 */
export function useChoices(id: number) {
  const client = useQueryClient();
  const { queryKey, queryFn } = acts.stow(id);
  return useMutation({
    scope: { id: choosing(id) },
    mutationFn: async (some: Partial<StowOptions> | ((o: StowOptions) => Partial<StowOptions>)) => {
      const now = client.getQueryData<Stow>(queryKey) ?? (await queryFn());
      const { run, stale } = acts.setStow(id, {
        ...now.options,
        ...(typeof some === "function" ? some(now.options) : some),
      });
      const stow = await run();
      // The answer is the new state; asked anew it would say the same.
      await client.cancelQueries({ queryKey });
      client.setQueryData(queryKey, stow);
      for (const key of stale) if (key.join() !== queryKey.join()) void client.invalidateQueries({ queryKey: key });
    },
  });
}
