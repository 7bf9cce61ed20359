import { t } from "@lingui/core/macro";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, need, type Schema } from "../../api/client";
import { useLatest } from "../../api/hooks";
import { useTouch } from "../running/hooks";

export type View = Schema["RampView"];
export type Plan = Schema["RampPlan"];
export type Week = Schema["RampWeekView"];
export type Terms = Schema["TransitionTerms"];

export const useRamp = (runner: string) =>
  useQuery({
    queryKey: ["ramp", runner],
    queryFn: () => need(api.GET("/api/runners/{id}/ramp", { params: { path: { id: runner } } })),
  });

/** A change of a ramp: the answer is the whole view. */
export function useRampChange<V>(runner: string, fn: (v: V) => Promise<View>) {
  const qc = useQueryClient();
  const touch = useTouch(runner);
  return useMutation({
    scope: { id: `ramp/${runner}` },
    mutationFn: fn,
    onSuccess: (v) => {
      touch();
      qc.setQueryData(["ramp", runner], v);
    },
  });
}

/** What a ramp with these terms would be, and with weeks away; it saves nothing. */
export function useWhatIf(runner: string, terms: Terms | null, away: number) {
  return useLatest(terms ? JSON.stringify({ terms, away }) : null, (body) =>
    need(
      api.POST("/api/runners/{id}/ramp-preview", {
        params: { path: { id: runner } },
        body: JSON.parse(body) as Schema["PreviewRampInput"],
      }),
    ),
  );
}

export const stageNames: [Terms["goal"], string][] = [
  ["home", t`at home`],
  ["walk", "walks"],
  ["strength", "strength"],
  ["drills", "strides"],
  ["run", t`minimal shoes`],
  ["bare", t`bare feet`],
];
export const runs = (goal: Terms["goal"]) => goal === "run" || goal === "bare";
export { km } from "../../parts/measures";
