import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, need, type Schema } from "../../api/client";
import { loadQuery } from "../../api/hooks";

export type LoadView = Schema["LoadView"];
export type Run = Schema["RunView"];
export type RunInput = Schema["RunInput"];

export const useLoad = (runner: string, weeks: number) =>
  useQuery({ ...loadQuery(runner, weeks), placeholderData: (before: LoadView | undefined) => before });

export const useRuns = (runner: string) =>
  useQuery({
    queryKey: ["runs", runner],
    queryFn: () => need(api.GET("/api/runners/{id}/runs", { params: { path: { id: runner } } })),
  });

export const useZones = () =>
  useQuery({
    queryKey: ["zones"],
    queryFn: () => need(api.GET("/api/zones")),
    staleTime: Number.POSITIVE_INFINITY,
  });

/** Everything that a run or a day changes is looked at again. */
export function useTouch(runner: string) {
  const qc = useQueryClient();
  return () => {
    for (const k of ["load", "runs", "block", "journal", "day", "review", "ramp", "imports"])
      void qc.invalidateQueries({ queryKey: [k, runner] });
    void qc.invalidateQueries({ queryKey: ["bench"] });
  };
}

/** A change to a runner's runs; those of one scope go one after the other. */
export function useRunChange<V>(runner: string, fn: (v: V) => Promise<unknown>, scope?: string) {
  const touch = useTouch(runner);
  return useMutation({ mutationFn: fn, onSuccess: touch, scope: scope ? { id: scope } : undefined });
}

export { km } from "../../parts/measures";
