import { useCallback, useEffect, useMemo, useReducer, useRef, useState } from "react";
import { api, need, Problem, type Schema } from "../../api/client";
import { useLatest } from "../../api/hooks";
import { useDeskKeys } from "./deskkeys";
import { frameAt } from "./frames";
import type { Point } from "./marked";
import { useMarks } from "./marks";
import {
  clicked,
  type LineName,
  type Moment,
  momentAt,
  moved,
  opening,
  reduce,
  type Side,
  type Template,
  toggled,
  viewOf,
  without,
  withPoints,
} from "./model";
import { drawnLines, shownMarks } from "./onstage";
import { proposedMarks, useProposal } from "./proposed";
import type { Shot } from "./readings";
import type { Clip } from "./upload";

/** What a clip is most likely marked for: what it was marked for last; a photo is no run. */
function firstOf(clip: Clip, templates: Template[]): string {
  const fits = (id: string | undefined) =>
    templates.find((x) => x.id === id && x.view === clip.marks.view)?.id;
  return (
    fits(clip.marks.moments.at(-1)?.template) ??
    (clip.kind === "photo" ? (fits("seated") ?? fits("big-toe")) : undefined) ??
    templates.find((x) => x.view === clip.marks.view)?.id ??
    "contact"
  );
}

/** Whether the frame that is named is on show, or which one came in its place. */
export type There = "here" | "on its way" | number;

/** What the desk shows of a clip, and what can be done to it. */
export function useDesk(clip: Clip, templates: Template[]) {
  const m = useMarks(clip);
  const photo = clip.kind === "photo";
  const [pic, setPic] = useState({ width: 0, height: 0, seconds: 0 });
  const rate = m.now.rate || 30;
  const count = photo ? 1 : clip.times.length || Math.max(1, Math.floor(pic.seconds * rate));
  const [d, act] = useReducer(reduce, firstOf(clip, templates), opening);
  const { frame, template, chosen, half, asking } = d;
  const stage = useRef<HTMLElement>(null);
  const t = templates.find((x) => x.id === template) ?? templates[0];
  const i = momentAt(m.now, d, t);
  const moment: Moment | undefined = m.now.moments[i];
  const next = t?.places.find((s) => !moment?.points[s.place]);
  const go = useCallback((to: number) => act({ do: "go", to, count }), [count]);

  const { read: proposed, error: notRead } = useProposal(clip, m.now, frame);
  // The moment follows what is seen, until the coach has chosen or marked one.
  const seen = proposed?.body === "whole" ? proposed.doing : undefined;
  const followed = useRef(m.now.moments.length > 0);
  useEffect(() => {
    if (!seen || followed.current) return;
    followed.current = true;
    const to = { running: "contact", standing: "standing", seated: "seated" }[seen];
    if (templates.some((x) => x.id === to && x.view === clip.marks.view)) act({ do: "template", to });
  }, [seen, templates, clip.marks.view]);
  // From another side other moments are marked.
  const from = viewOf(m.now.view);
  useEffect(() => {
    const first = templates.find((x) => x.view === from);
    if (first && t?.view !== from) act({ do: "template", to: first.id });
  }, [from, t?.view, templates]);
  const asked = asking ? proposed?.asks.find((a) => a.frame === frame) : undefined;

  /** The marks with how high the picture is: points on a large one are placed less exactly. */
  const sized = (marks: typeof m.now): typeof m.now =>
    pic.height > 0 && marks.picture.heightPx !== pic.height
      ? { ...marks, picture: { ...marks.picture, heightPx: pic.height } }
      : marks;
  const put = (points: Moment["points"]) => withPoints(m.now, i, d, points);
  const place = (at: Point) => {
    const done = clicked(d, m.now, at, {
      at: i,
      next: next?.place,
      asked,
      asks: proposed?.asks ?? [],
      count,
    });
    if (done.marks) m.step(sized(done.marks));
    act({ do: "clicked", desk: done.desk });
  };
  const pose = proposedMarks(proposed, m.now, frame);
  const begun = useRef(false);
  const moveTo = (id: string, at: Point) => {
    if (!begun.current) m.begin();
    begun.current = true;
    m.slide(moved(m.now, d, i, id, at));
  };
  const where = (id: string): Point | undefined => {
    if (id.startsWith("pose/")) return pose.find((x) => x.id === id)?.at;
    const [kind, name = "", n] = id.split("/");
    return kind === "at" ? moment?.points[name] : m.now.picture[name as LineName]?.[Number(n)];
  };
  const event = (foot: Side, kind: "contact" | "toe-off") => m.step(toggled(m.now, frame, foot, kind));
  useDeskKeys({
    d,
    act,
    go,
    count,
    photo,
    size: pic,
    where,
    move: (id, to) => m.step(moved(m.now, d, i, id, to)),
    drop: () => {
      if (!chosen) return;
      m.step(without(m.now, d, i, chosen));
      act({ do: "choose", id: null });
    },
    event,
    undo: m.undo,
    redo: m.redo,
  });

  const read = useLatest(
    JSON.stringify({ marks: sized(m.now), times: clip.times, runner: clip.runner }),
    (body) =>
      need(api.POST("/api/compute/clip-readings", { body: JSON.parse(body) as Schema["ClipReadInput"] })),
  );
  const bad =
    read.error instanceof Problem ? (Object.values(read.error.fields)[0] ?? read.error.message) : "";
  const shown = shownMarks(pose, m.now, half, moment, t);
  const lines = useMemo(() => drawnLines(m.now, moment), [m.now, moment]);
  const shot: Shot = useRef(null);
  const stop = useCallback(() => act({ do: "play", on: false }), []);
  const frameOf = useCallback((s: number) => frameAt(clip.times, rate, s), [clip.times, rate]);
  const onTime = useCallback((s: number) => act({ do: "show", frame: frameOf(s) }), [frameOf]);
  const [there, setThere] = useState<There>("here");
  const onThere = useCallback(
    (yes: boolean, instead?: number) => setThere(yes ? "here" : (instead ?? "on its way")),
    [],
  );
  return {
    m,
    photo,
    pic,
    setPic,
    rate,
    count,
    d,
    act,
    stage,
    t,
    i,
    moment,
    next,
    go,
    proposed,
    notRead,
    asked,
    put,
    place,
    pose,
    begun,
    moveTo,
    event,
    read,
    bad,
    shown,
    lines,
    shot,
    stop,
    onTime,
    frameOf,
    there,
    onThere,
  };
}
