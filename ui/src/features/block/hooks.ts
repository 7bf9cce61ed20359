import { t } from "@lingui/core/macro";
import { useQuery } from "@tanstack/react-query";
import { api, need, type Schema } from "../../api/client";
import { useLatest } from "../../api/hooks";

export type Wishes = Schema["PlanningWishes"];
export type PlanView = Schema["PlanView"];

export const useWishes = (runner: string) =>
  useQuery({
    queryKey: ["wishes", runner],
    queryFn: () => need(api.GET("/api/runners/{id}/wishes", { params: { path: { id: runner } } })),
    staleTime: 0,
  });

/** What a plan with these wishes would be; it saves nothing. */
export function usePreview(runner: string, wishes: Wishes | undefined, startOn?: string) {
  const { answer, error } = useLatest(
    wishes ? JSON.stringify({ wishes, startOn: startOn || undefined }) : null,
    (body) =>
      need(
        api.POST("/api/runners/{id}/plan-preview", {
          params: { path: { id: runner } },
          body: JSON.parse(body) as Schema["PreviewInput"],
        }),
      ),
  );
  return { plan: answer, error };
}

export const weekdays = [t`Mon`, t`Tue`, t`Wed`, t`Thu`, t`Fri`, t`Sat`, t`Sun`] as const;
export const longDays = [
  t`Monday`,
  t`Tuesday`,
  t`Wednesday`,
  t`Thursday`,
  t`Friday`,
  t`Saturday`,
  t`Sunday`,
] as const;

export const sessionName: Record<Schema["PlanningSession"]["kind"], string> = {
  micro: t`Daily`,
  main: t`Main`,
  evening: t`Evening`,
  drill: t`In the run`,
  exposure: t`Bare feet`,
  routine: t`Routine`,
};

export const runName: Record<string, string> = { "": t`no run`, easy: "easy", long: "long", fast: "fast" };
