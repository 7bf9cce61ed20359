import { useMutation, useQueryClient } from "@tanstack/react-query";
import type { Schema } from "../../api/client";
import { staffKey } from "./people";

export type Own = Schema["Own"];
export const ownKey = ["own"];

/** A change of the own page; what comes back is the page as it stands then. */
export function useOwnChange<V, T>(
  fn: (v: V) => Promise<T>,
  own: (t: T) => Own,
  done?: (t: T) => void,
  refused?: (e: Error) => void,
) {
  const qc = useQueryClient();
  return useMutation({
    mutationFn: fn,
    retry: false,
    onError: refused,
    onSuccess: (t) => {
      qc.setQueryData(ownKey, own(t));
      void qc.invalidateQueries({ queryKey: ["me"] });
      void qc.invalidateQueries({ queryKey: staffKey });
      done?.(t);
    },
  });
}

/** The answer is the page itself. */
export const itself = (o: Own) => o;
