import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { api, NoConnection, need, type Schema } from "../../api/client";
import { dropDraft, getDraft, putDraft } from "../../parts/drafts";

type Screening = Schema["Screening"];

type Talk = Schema["Talk"];

/** The talk of a screening: every change is kept here at once, and sent. */
export function useTalk(s: Screening, reason: string) {
  const qc = useQueryClient();
  const slot = `talk:${s.id}`;
  const [talk, setTalk] = useState<Talk>(() => getDraft<Talk>(slot) ?? s.talk);
  const rev = useRef(s.revisions.talk ?? 0);
  rev.current = Math.max(rev.current, s.revisions.talk ?? 0);
  const save = useMutation({
    scope: { id: slot },
    mutationFn: (t: Talk) =>
      need(
        api.PUT("/api/screenings/{id}/talk", {
          params: { path: { id: s.id }, query: { rev: rev.current, reason: reason || undefined } },
          body: t,
        }),
      ),
    onSuccess: (next, t) => {
      rev.current = next.revisions.talk ?? rev.current;
      if (JSON.stringify(getDraft(slot)) === JSON.stringify(t)) dropDraft(slot);
      qc.setQueryData(["screening", s.id], next);
    },
    retry: (_, e) => e instanceof NoConnection,
  });
  // Someone else saved the talk meanwhile, and nothing here waits: take theirs.
  useEffect(() => {
    if (!save.isPending && getDraft(slot) === undefined) setTalk(s.talk);
  }, [s.talk, save.isPending, slot]);
  const put = (t: Talk) => {
    setTalk(t);
    putDraft(slot, t);
    save.mutate(t);
  };
  return { talk, put, error: save.error };
}
