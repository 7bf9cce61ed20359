import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { api, need, Problem, type Schema } from "../../api/client";
import { dropDraft, getDraft, putDraft } from "../../parts/drafts";
import { merged } from "./merge";
import type { Clip } from "./upload";

export type Marks = Schema["ClipMarks"];

type Kept = { base: Marks; marks: Marks };

/** Marks of a clip that were not saved yet, put together with what stands now. */
function opened(clip: Clip): Marks {
  const kept = getDraft<Kept>(`clip:${clip.id}`);
  return kept?.marks?.events && kept.base?.events ? merged(kept.base, kept.marks, clip.marks) : clip.marks;
}

/**
 * Marks with the steps taken so far. Each is kept on this device at once and saved a
 * moment after the last of them; what was kept when the page went away is there again
 * when it opens. Where somebody else marked meanwhile, both are put together.
 */
export function useMarks(clip: Clip) {
  const [past, setPast] = useState<Marks[]>([]);
  const [ahead, setAhead] = useState<Marks[]>([]);
  const [now, setNow] = useState<Marks>(() => opened(clip));
  const qc = useQueryClient();
  const rev = useRef(clip.rev);
  const saved = useRef(JSON.stringify(clip.marks));
  const latest = useRef(saved.current);
  const [met, setMet] = useState(0);
  const save = useMutation({
    scope: { id: `clip/${clip.id}` },
    mutationFn: (m: Marks) =>
      need(
        api.PUT("/api/clips/{id}/marks", {
          params: { path: { id: clip.id }, query: { rev: rev.current } },
          body: m,
        }),
      ),
    onSuccess: (v, m) => {
      rev.current = v.rev;
      saved.current = JSON.stringify(m);
      if (latest.current === saved.current) dropDraft(`clip:${clip.id}`);
      qc.setQueryData<Clip>(["clip", clip.id], (c) => c && { ...c, rev: v.rev, marks: m });
      void qc.invalidateQueries({ queryKey: ["clips", clip.screeningId] });
    },
    onError: async (e) => {
      if (!(e instanceof Problem) || e.status !== 409) return;
      const theirs = await need(api.GET("/api/clips/{id}", { params: { path: { id: clip.id } } }));
      const base = JSON.parse(saved.current) as Marks;
      rev.current = theirs.rev;
      saved.current = JSON.stringify(theirs.marks);
      setMet((n) => n + 1);
      setNow((mine) => merged(base, mine, theirs.marks));
    },
  });
  const text = JSON.stringify(now);
  latest.current = text;
  // biome-ignore lint/correctness/useExhaustiveDependencies: saved when the marks change, by their text
  useEffect(() => {
    if (text === saved.current) {
      dropDraft(`clip:${clip.id}`); // it came through on the way out
      return;
    }
    putDraft(`clip:${clip.id}`, { base: JSON.parse(saved.current), marks: now } satisfies Kept);
    const t = setTimeout(() => save.mutate(JSON.parse(text) as Marks), 600);
    return () => clearTimeout(t);
  }, [text, met]);
  // Whoever leaves with marks not saved yet: they are sent on the way out.
  const send = useRef(save.mutate);
  send.current = save.mutate;
  useEffect(
    () => () => {
      if (latest.current !== saved.current) send.current(JSON.parse(latest.current) as Marks);
    },
    [],
  );
  // The page itself goes: a request that outlives it takes them along. What it did not
  // bring is kept on this device and put in when the clip is opened again.
  useEffect(() => {
    const out = () => {
      if (latest.current === saved.current) return;
      void fetch(`/api/clips/${clip.id}/marks?rev=${rev.current}`, {
        method: "PUT",
        keepalive: true,
        headers: { "Content-Type": "application/json" },
        body: latest.current,
      }).catch(() => {});
    };
    window.addEventListener("pagehide", out);
    return () => window.removeEventListener("pagehide", out);
  }, [clip.id]);
  /** A step that can be undone; a drag is one step, however long. */
  const step = (next: Marks) => {
    setPast((p) => [...p.slice(-200), now]);
    setAhead([]);
    setNow(next);
  };
  return {
    now,
    step,
    /** Moves without a step: the step was taken when the drag began. */
    slide: setNow,
    begin: () => {
      setPast((p) => [...p.slice(-200), now]);
      setAhead([]);
    },
    undo: () => {
      const was = past.at(-1);
      if (!was) return;
      setPast(past.slice(0, -1));
      setAhead([now, ...ahead]);
      setNow(was);
    },
    redo: () => {
      const next = ahead[0];
      if (!next) return;
      setAhead(ahead.slice(1));
      setPast([...past, now]);
      setNow(next);
    },
    canUndo: past.length > 0,
    canRedo: ahead.length > 0,
    save,
    waiting: text !== saved.current,
    /** How often somebody else's marks came in beside these. */
    met,
  };
}
