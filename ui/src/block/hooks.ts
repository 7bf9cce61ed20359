import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { api, need, type Schema } from "../api/client";

export type Wishes = Schema["PlanningWishes"];
export type PlanView = Schema["PlanView"];

export const useWishes = (runner: string) =>
  useQuery({
    queryKey: ["wishes", runner],
    queryFn: () => need(api.GET("/api/runners/{id}/wishes", { params: { path: { id: runner } } })),
    staleTime: 0,
  });

/**
 * What a plan with these wishes would be. Asks again at each change, one question
 * at a time: an answer that a newer wish overtook is dropped, the one before
 * stays on show until the new one is there.
 */
export function usePreview(runner: string, wishes: Wishes | undefined, startOn?: string) {
  const [plan, setPlan] = useState<PlanView>();
  const [error, setError] = useState<Error | null>(null);
  const asking = useRef(false);
  const next = useRef<string | null>(null);
  const body = wishes ? JSON.stringify({ wishes, startOn: startOn || undefined }) : null;
  useEffect(() => {
    if (!body) return;
    next.current = body;
    const ask = async () => {
      if (asking.current) return;
      while (next.current) {
        const now = next.current;
        next.current = null;
        asking.current = true;
        try {
          const got = await need(
            api.POST("/api/runners/{id}/plan-preview", {
              params: { path: { id: runner } },
              body: JSON.parse(now) as Schema["PreviewInput"],
            }),
          );
          if (!next.current) {
            setPlan(got);
            setError(null);
          }
        } catch (e) {
          if (!next.current) setError(e as Error);
        } finally {
          asking.current = false;
        }
      }
    };
    void ask();
  }, [body, runner]);
  return { plan, error };
}

export const weekdays = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"] as const;
export const longDays = [
  "Monday",
  "Tuesday",
  "Wednesday",
  "Thursday",
  "Friday",
  "Saturday",
  "Sunday",
] as const;

export const sessionName: Record<Schema["PlanningSession"]["kind"], string> = {
  micro: "Daily",
  main: "Main",
  evening: "Evening",
  drill: "In the run",
  exposure: "Bare feet",
};

export const runName: Record<string, string> = { "": "no run", easy: "easy", long: "long", fast: "fast" };
