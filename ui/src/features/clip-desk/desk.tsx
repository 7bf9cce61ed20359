import { useQuery } from "@tanstack/react-query";
import { useCallback, useMemo, useReducer, useRef, useState } from "react";
import { useParams } from "react-router";
import { api, need, Problem, type Schema } from "../../api/client";
import { useLatest } from "../../api/hooks";
import { Failed, Loading } from "../../parts/states";
import { useDeskKeys } from "./deskkeys";
import { edges } from "./drawn";
import { frameAt, seekTo } from "./frames";
import { Head } from "./head";
import { LookThrough } from "./lookthrough";
import type { Point } from "./marked";
import { MarkersDesk } from "./markers";
import { MarkPanel } from "./markpanel";
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
  without,
  withPoints,
} from "./model";
import { drawnLines, shownMarks, taken } from "./onstage";
import { Propose } from "./proposals";
import { proposedLines, proposedMarks, useProposal } from "./proposed";
import { ProposedMeasures } from "./proposedmeasures";
import type { Shot } from "./readings";
import { Read } from "./readpanel";
import { Settings } from "./settings";
import { Stage } from "./stage";
import { Strip } from "./strip";
import { Transport } from "./transport";
import type { Clip } from "./upload";

/** Step a clip, mark points and events, see the measures live. */
export function DeskView() {
  const { id = "" } = useParams();
  const c = useQuery({
    queryKey: ["clip", id],
    queryFn: () => need(api.GET("/api/clips/{id}", { params: { path: { id } } })),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const t = useQuery({
    queryKey: ["clip-templates"],
    queryFn: () => need(api.GET("/api/clip-templates")),
    staleTime: Number.POSITIVE_INFINITY,
  });
  if (c.isPending || t.isPending) return <Loading what="the clip" />;
  if (c.error) return <Failed error={c.error} retry={() => void c.refetch()} />;
  if (t.error) return <Failed error={t.error} retry={() => void t.refetch()} />;
  if (c.data.kind === "markers") return <MarkersDesk key={id} clip={c.data} />;
  return <Desk key={id} clip={c.data} templates={t.data.items} />;
}

function Desk({ clip, templates }: { clip: Clip; templates: Template[] }) {
  const m = useMarks(clip);
  const photo = clip.kind === "photo";
  const [pic, setPic] = useState({ width: 0, height: 0, seconds: 0 });
  const rate = m.now.rate || 30;
  const count = photo ? 1 : clip.times.length || Math.max(1, Math.floor(pic.seconds * rate));
  const [d, act] = useReducer(
    reduce,
    templates.find((t) => t.view === clip.marks.view)?.id ?? "contact",
    opening,
  );
  const { frame, playing, speed, template, side, chosen, line, half, box, boxing, asking } = d;
  const stage = useRef<HTMLElement>(null);
  const t = templates.find((x) => x.id === template) ?? templates[0];
  const i = momentAt(m.now, d, t);
  const moment: Moment | undefined = m.now.moments[i];
  const next = t?.places.find((s) => !moment?.points[s.place]);
  const go = useCallback((to: number) => act({ do: "go", to, count }), [count]);

  const { read: proposed, error: notRead } = useProposal(clip, m.now, frame);
  const asked = asking ? proposed?.asks.find((a) => a.frame === frame) : undefined;

  const put = (points: Moment["points"]) => withPoints(m.now, i, d, points);
  const place = (at: Point) => {
    const done = clicked(d, m.now, at, {
      at: i,
      next: next?.place,
      asked,
      asks: proposed?.asks ?? [],
      count,
    });
    if (done.marks) m.step(done.marks);
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

  const read = useLatest(JSON.stringify({ marks: m.now, times: clip.times, runner: clip.runner }), (body) =>
    need(api.POST("/api/compute/clip-readings", { body: JSON.parse(body) as Schema["ClipReadInput"] })),
  );
  const bad =
    read.error instanceof Problem ? (Object.values(read.error.fields)[0] ?? read.error.message) : "";
  const shown = shownMarks(pose, m.now, half, moment, t);
  const lines = useMemo(() => drawnLines(m.now, moment), [m.now, moment]);
  const shot: Shot = useRef(null);
  const picture = async () => {
    const b = await shot.current?.();
    if (!b) return;
    const a = document.createElement("a");
    a.href = URL.createObjectURL(b);
    a.download = `${clip.name.replace(/\.[^.]*$/, "")}-${frame + 1}.png`;
    a.click();
    URL.revokeObjectURL(a.href);
  };
  const stop = useCallback(() => act({ do: "play", on: false }), []);
  const onTime = useCallback(
    (s: number) => act({ do: "show", frame: frameAt(clip.times, rate, s) }),
    [clip.times, rate],
  );
  return (
    <>
      <Head clip={clip} save={{ error: m.save.error, busy: m.save.isPending || m.waiting }} />
      <div className="grid gap-x-7 gap-y-6 lg:grid-cols-[minmax(0,1fr)_22rem]">
        <section ref={stage} aria-label="The clip" className="min-w-0">
          {asked && (
            <p role="status" className="mb-1 bg-ink px-3 py-1.5 font-semibold text-chalk">
              {asked.what === "contact" ? "Contact" : "Sole flat"}, {asked.foot}: click the heel, then the
              toe, both under the sole. Esc leaves it.
            </p>
          )}
          <Stage
            src={`/api/clips/${clip.id}/file`}
            photo={photo}
            second={seekTo(clip.times, rate, frame)}
            ahead={seekTo(clip.times, rate, Math.min(count - 1, Math.max(0, frame + d.way)))}
            playing={playing}
            speed={speed}
            marks={shown}
            lines={[...proposedLines(pose), ...lines, ...(box ? edges(box) : [])]}
            chosen={chosen}
            placing={!!asked || boxing || !!line}
            onPicture={setPic}
            onEnd={stop}
            onTime={onTime}
            onPlace={place}
            onMove={moveTo}
            onDone={() => {
              begun.current = false;
            }}
            onChoose={(id) => act({ do: "choose", id })}
            onWheel={(by) => go(frame + by)}
            shot={shot}
          />
          {!photo && (
            <Transport
              d={d}
              act={act}
              go={go}
              count={count}
              seconds={((clip.times[frame] ?? frame / rate) - (clip.times[0] ?? 0)) / (m.now.slow || 1)}
            />
          )}
          {!photo && (
            <Strip
              events={
                proposed && proposed.events.length > 0
                  ? proposed.events.map((e) => ({ frame: e.frame, foot: e.foot, kind: e.kind }))
                  : m.now.events
              }
              hollow={(e) =>
                !m.now.events.some((x) => x.frame === e.frame && x.foot === e.foot && x.kind === e.kind)
              }
              count={count}
              frame={frame}
              onFrame={go}
              onEvent={event}
            />
          )}
          <Propose
            clip={clip}
            frame={frame}
            count={count}
            box={box}
            boxing={boxing}
            setBoxing={(on) => act({ do: "boxing", on })}
            clearBox={() => act({ do: "unbox" })}
          />
          {notRead && clip.proposedAt && (
            <p role="alert" className="mt-2 text-clay">
              ▲ {notRead.message}
            </p>
          )}
          {proposed && (
            <LookThrough
              read={proposed}
              m={m.now}
              frame={frame}
              go={go}
              set={m.step}
              ask={asking}
              setAsk={(on) => {
                act({ do: "ask", on });
                if (on) stage.current?.scrollIntoView({ block: "start" });
              }}
              take={
                pose.length > 0 && t?.places.some((s) => pose.some((x) => x.id === `pose/${side}/${s.place}`))
                  ? () => m.step(taken(m.now, i, d, t, pose))
                  : null
              }
            />
          )}
          <p className="mt-3 flex flex-wrap gap-x-4">
            <button type="button" className="btn-quiet" onClick={() => void picture()}>
              picture with its marks
            </button>
            <a className="btn-quiet" href={`/api/clips/${clip.id}/files/csv`} download>
              readings as a table
            </a>
            {m.now.picture.scale && m.now.picture.scaleCm ? (
              <a className="btn-quiet" href={`/api/clips/${clip.id}/files/trc`} download>
                marks as a marker file
              </a>
            ) : (
              <span className="text-[14px] text-ink-2">with a scale: marks as a marker file</span>
            )}
          </p>
          <Settings
            m={m.now}
            set={(part) => m.step({ ...m.now, ...part })}
            times={clip.times.length > 0}
            photo={photo}
          />
        </section>
        <section aria-label="Marks and measures" className="min-w-0">
          <MarkPanel
            m={m}
            d={d}
            act={act}
            templates={templates}
            t={t}
            moment={moment}
            next={next?.place}
            put={put}
            middle={
              pic.width > 0 ? { x: Math.round(pic.width / 2), y: Math.round(pic.height / 2) } : undefined
            }
          />
          <Read
            clip={clip}
            r={read.answer}
            frame={frame}
            template={template}
            apart={!!t?.apart}
            side={side}
            bad={bad}
            go={go}
            shot={shot}
            alone={!proposed?.gait}
          />
          {proposed && <ProposedMeasures read={proposed} clip={clip} shot={shot} />}
        </section>
      </div>
    </>
  );
}
