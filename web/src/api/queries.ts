import { keepPreviousData, useInfiniteQuery, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { useLocation, useParams } from "react-router";

import { api } from "./client";
import type { AppState, Decisions, Folder, Mend, Sealed, Slip, Stow, StowOptions, Summary, Wanted } from "./types";

export const useAppState = () => useQuery({ queryKey: ["state"], queryFn: () => api.get<AppState>("/state") });

/** useProjectID is the project of the address bar. */
export function useProjectID(): number {
  return Number(useParams().id ?? 0);
}

export const project = <T>(id: number, part: string) => ({
  queryKey: ["project", id, part],
  queryFn: () => api.get<T>(`/projects/${id}${part}`),
  enabled: id > 0,
  placeholderData: keepPreviousData,
});

export const useSummary = (id: number) => useQuery(project<Summary>(id, ""));
/**
 * useLook asks the disk again when a page is opened or comes back into sight:
 * what it shows may be hours old.
 */
export function useLook(id: number) {
  const { pathname } = useLocation();
  useEffect(() => {
    const look = () => {
      // Whoever cannot be asked says so in the questions the page shows.
      if (id > 0 && !document.hidden) api.post(`/projects/${id}/look`).catch(() => undefined);
    };
    look();
    document.addEventListener("visibilitychange", look);
    return () => document.removeEventListener("visibilitychange", look);
  }, [id, pathname]);
}

export const useMend = (id: number) => useQuery(project<Mend>(id, "/mend"));
export const useStow = (id: number) => useQuery(project<Stow>(id, "/stow"));
export const useSealed = (id: number) => useQuery(project<Sealed>(id, "/sealed"));
export const useDecisions = (id: number) => useQuery(project<Decisions>(id, "/decisions"));

/** one asks for what belongs to a row; the answer for another row is never shown in its place. */
const one = <T>(id: number, part: string, key: string) => ({
  queryKey: ["project", id, part, key],
  queryFn: () => api.get<T>(`/projects/${id}${part}`, { key }),
  enabled: id > 0 && key !== "",
});

export const useSlip = (id: number, key: string) => useQuery(one<Slip>(id, "/slip", key));
export const useWanted = (id: number, key: string) => useQuery(one<Wanted>(id, "/wanted", key));

/**
 * useFolder lists a folder, part by part: of 200,000 files only those that are
 * looked at are asked for. With machine it is any folder of this machine, else
 * one within the drives.
 */
export const useFolder = (path: string, holds: string, machine: boolean) =>
  useInfiniteQuery({
    queryKey: ["browse", machine, path, holds],
    queryFn: ({ pageParam }) =>
      api.get<Folder>(machine ? "/machine" : "/browse", { path, q: holds, from: String(pageParam) }),
    initialPageParam: 0,
    getNextPageParam: (last, pages) => {
      const have = pages.reduce((n, p) => n + p.entries.length, 0);
      return have < last.total && last.entries.length > 0 ? have : undefined;
    },
    staleTime: 0,
    placeholderData: keepPreviousData,
  });

/**
 * useAct runs a change and then asks for everything it may have touched. Changes of one
 * scope run one after the other.
 */
export function useAct<In, Out>(
  act: (input: In) => Promise<Out>,
  done?: (out: Out, input: In) => void,
  scope?: string,
) {
  const client = useQueryClient();
  return useMutation<Out, Error, In>({
    mutationFn: act,
    ...(scope ? { scope: { id: scope } } : {}),
    onSuccess: (out, input) => {
      void client.invalidateQueries();
      done?.(out, input);
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
  const key = project<Stow>(id, "/stow").queryKey;
  return useAct(
    async (some: Partial<StowOptions> | ((o: StowOptions) => Partial<StowOptions>)) => {
      const now = client.getQueryData<Stow>(key) ?? (await api.get<Stow>(`/projects/${id}/stow`));
      const stow = await api.put<Stow>(`/projects/${id}/stow`, {
        ...now.options,
        ...(typeof some === "function" ? some(now.options) : some),
      });
      client.setQueryData(key, stow);
    },
    undefined,
    choosing(id),
  );
}
