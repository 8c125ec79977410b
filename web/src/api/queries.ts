import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useParams } from "react-router";

import { api } from "./client";
import type { Folder, Mend, Sealed, Slip, State, Stow, Summary } from "./types";

export const useAppState = () => useQuery({ queryKey: ["state"], queryFn: () => api.get<State>("/state") });

/** useProjectID is the project of the address bar. */
export function useProjectID(): number {
  return Number(useParams().id ?? 0);
}

const project = <T>(id: number, part: string) => ({ queryKey: ["project", id, part], queryFn: () => api.get<T>(`/projects/${id}${part}`), enabled: id > 0, placeholderData: keepPreviousData });

export const useSummary = (id: number) => useQuery(project<Summary>(id, ""));
export const useMend = (id: number) => useQuery(project<Mend>(id, "/mend"));
export const useStow = (id: number) => useQuery(project<Stow>(id, "/stow"));
export const useSealed = (id: number) => useQuery(project<Sealed>(id, "/sealed"));

export const useSlip = (id: number, key: string) =>
  useQuery({ queryKey: ["project", id, "/slip", key], queryFn: () => api.get<Slip>(`/projects/${id}/slip`, { key }), enabled: id > 0 && key !== "", placeholderData: keepPreviousData });

export const useFolder = (path: string) => useQuery({ queryKey: ["browse", path], queryFn: () => api.get<Folder>("/browse", { path }), staleTime: 0, placeholderData: keepPreviousData });

/** useAct runs a change and then asks for everything it may have touched. */
export function useAct<In, Out>(act: (input: In) => Promise<Out>, done?: (out: Out, input: In) => void) {
  const client = useQueryClient();
  return useMutation<Out, Error, In>({
    mutationFn: act,
    onSuccess: (out, input) => {
      void client.invalidateQueries();
      done?.(out, input);
    },
  });
}
