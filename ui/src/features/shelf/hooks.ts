import { t } from "@lingui/core/macro";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, need, type Schema } from "../../api/client";

export type Shelf = Schema["Shelf"];
export type Ladder = Schema["ShelfLadder"];
export type Exercise = Schema["ShelfExercise"];
export type Routine = Schema["ShelfRoutine"];

/** Exercises and ladders as the practice has them, with their drawings. */
export const useShelf = () =>
  useQuery({ queryKey: ["shelf"], queryFn: () => need(api.GET("/api/shelf")), staleTime: 60_000 });

/** The drawing of an exercise, once the shelf is there. */
export function usePictures(): (exercise: string) => Schema["Picture"] | undefined {
  const shelf = useShelf();
  return (id) => shelf.data?.exercises.find((e) => e.id === id)?.picture;
}

/** A change of the shelf; what comes back replaces it. */
export function useShelfChange<V>(fn: (v: V) => Promise<Shelf>) {
  const qc = useQueryClient();
  return useMutation({ mutationFn: fn, onSuccess: (s) => qc.setQueryData(["shelf"], s) });
}

export const useSchools = () =>
  useQuery({ queryKey: ["schools"], queryFn: () => need(api.GET("/api/schools")) });

export const tissueName: Record<string, string> = {
  "achilles-calf": t`Achilles and calf`,
  sole: "sole",
  "forefoot-bone": t`forefoot bone`,
  "front-shin": t`front shin`,
};

export const placeName: Record<Ladder["place"], string> = {
  micro: t`a little every day`,
  main: t`in a main session`,
  evening: t`in the evening`,
  run: t`in or before a run`,
  day: t`through the day`,
};

export const timingName: Record<Exercise["timing"], string> = {
  any: t`any time`,
  "pre-run": t`good before a run`,
  "not-tired": t`not straight after a run`,
  evening: "evening",
  gap48: t`a whole day between`,
};

export const gateName = (g: string) => g.replaceAll("-", " ");

export const capital = (s: string) => s.charAt(0).toUpperCase() + s.slice(1);
