import { useMutation } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { api, need, type Schema } from "../../api/client";
import type { Clip } from "./upload";

export type Marks = Schema["ClipMarks"];

/** Marks with the steps taken so far, saved a moment after the last of them. */
export function useMarks(clip: Clip) {
  const [past, setPast] = useState<Marks[]>([]);
  const [ahead, setAhead] = useState<Marks[]>([]);
  const [now, setNow] = useState<Marks>(clip.marks);
  const rev = useRef(clip.rev);
  const saved = useRef(JSON.stringify(clip.marks));
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
    },
  });
  const text = JSON.stringify(now);
  // biome-ignore lint/correctness/useExhaustiveDependencies: saved when the marks change, by their text
  useEffect(() => {
    if (text === saved.current) return;
    const t = setTimeout(() => save.mutate(JSON.parse(text) as Marks), 600);
    return () => clearTimeout(t);
  }, [text]);
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
  };
}
