import { useQuery } from "@tanstack/react-query";
import { useCallback, useMemo, useRef, useState } from "react";
import { useParams } from "react-router";
import { api, need, Problem, type Schema } from "../api/client";
import { useLatest } from "../api/hooks";
import { Choice, Field } from "../parts/field";
import { useKeys } from "../parts/keys";
import { Title } from "../parts/marks";
import { Tick } from "../parts/slide";
import { Failed, Loading } from "../parts/states";
import { Head } from "./head";
import { MarkersDesk } from "./markers";
import { type Marks, useMarks } from "./marks";
import {
  fixed,
  LookThrough,
  Propose,
  ProposedMeasures,
  proposedLines,
  proposedMarks,
  unfixed,
  useProposal,
} from "./proposals";
import type { Box } from "./propose";
import { digits, Row, type Shot, Times } from "./readings";
import { frameAt, type Mark, type Point, Stage, type Stroke, seekTo } from "./stage";
import { Strip } from "./strip";
import type { Clip } from "./upload";

type Moment = Schema["ClipMoment"];
type Template = Schema["ClipTemplate"];
type Result = Schema["ClipResult"];
type LineName = "floor" | "plumb" | "scale";

const lineNames: Record<LineName, string> = { floor: "floor line", plumb: "plumb line", scale: "scale" };

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
  const [frame, setFrame] = useState(0);
  const way = useRef(1);
  const [playing, setPlaying] = useState(false);
  const [speed, setSpeed] = useState(0.25);
  const [template, setTemplate] = useState(
    () => templates.find((t) => t.view === clip.marks.view)?.id ?? "contact",
  );
  const [side, setSide] = useState<"left" | "right">("right");
  const [chosen, setChosen] = useState<string | null>(null);
  const [line, setLine] = useState<LineName | null>(null);
  const [half, setHalf] = useState<Point | null>(null);
  const [box, setBox] = useState<Box | null>(null);
  const [boxing, setBoxing] = useState(false);
  const [asking, setAsking] = useState(false);
  const stage = useRef<HTMLElement>(null);
  const t = templates.find((x) => x.id === template) ?? templates[0];
  const i = m.now.moments.findIndex(
    (x) => x.template === template && x.side === side && (x.frame === frame || t?.apart),
  );
  const moment: Moment | undefined = m.now.moments[i];
  const next = t?.places.find((s) => !moment?.points[s.place]);
  const go = useCallback(
    (to: number) => {
      setPlaying(false);
      setFrame((was) => {
        const now = Math.min(count - 1, Math.max(0, to));
        if (now !== was) way.current = now - was;
        return now;
      });
    },
    [count],
  );

  const { read: proposed, error: notRead } = useProposal(clip, m.now, frame);
  const asked = asking ? proposed?.asks.find((a) => a.frame === frame) : undefined;

  const put = (points: Moment["points"], base: Marks = m.now): Marks => {
    const moments = [...base.moments];
    const was = moments[i];
    if (was) moments[i] = { ...was, points, by: was.by === "proposed" ? "corrected" : was.by };
    else moments.push({ frame, template, side, points });
    return { ...base, moments: moments.filter((x) => Object.keys(x.points).length > 0) };
  };
  const place = (at: Point) => {
    const p = { x: Math.round(at.x * 10) / 10, y: Math.round(at.y * 10) / 10 };
    if (boxing) {
      if (!half) {
        setHalf(p);
        return;
      }
      const size = Math.max(40, Math.abs(p.x - half.x), Math.abs(p.y - half.y));
      setBox({ x: (p.x + half.x - size) / 2, y: (p.y + half.y - size) / 2, size });
      setHalf(null);
      setBoxing(false);
      return;
    }
    if (asked) {
      const has = (place: "heel" | "toe") =>
        (m.now.fixes ?? []).some((f) => f.frame === frame && f.foot === asked.foot && f.place === place);
      const place = !has("heel") || has("toe") ? "heel" : "toe";
      const base = place === "heel" ? unfixed(m.now, frame, asked.foot, "toe") : m.now;
      m.step(fixed(base, frame, asked.foot, place, p));
      if (place === "toe") {
        const later = proposed?.asks.filter((a) => !a.done && a.frame !== frame) ?? [];
        const to = later.find((a) => a.frame > frame) ?? later[0];
        if (to) go(to.frame);
        else setAsking(false);
      }
      return;
    }
    if (line) {
      if (!half) {
        setHalf(p);
        return;
      }
      m.step({ ...m.now, picture: { ...m.now.picture, [line]: [half, p] } });
      setHalf(null);
      setLine(null);
      return;
    }
    if (!next) {
      setChosen(null);
      return;
    }
    m.step(put({ ...moment?.points, [next.place]: p }));
    setChosen(`at/${next.place}`);
  };
  const pose = proposedMarks(proposed, m.now, frame);
  const begun = useRef(false);
  const moveTo = (id: string, at: Point) => {
    if (!begun.current) m.begin();
    begun.current = true;
    m.slide(moved(id, at));
  };
  const moved = (id: string, at: Point): Marks => {
    const [kind, name = "", n = ""] = id.split("/");
    if (kind === "pose") return fixed(m.now, frame, name as "left", n as "heel", at);
    if (kind === "at") return put({ ...moment?.points, [name]: at });
    const l = [...(m.now.picture[name as LineName] ?? [])];
    l[Number(n)] = at;
    return { ...m.now, picture: { ...m.now.picture, [name]: l } };
  };
  const where = (id: string): Point | undefined => {
    if (id.startsWith("pose/")) return pose.find((x) => x.id === id)?.at;
    const [kind, name = "", n] = id.split("/");
    return kind === "at" ? moment?.points[name] : m.now.picture[name as LineName]?.[Number(n)];
  };
  const event = (foot: "left" | "right", kind: "contact" | "toe-off") => {
    const same = (e: Schema["ClipEvent"]) => e.foot === foot && e.kind === kind && e.frame === frame;
    m.step({
      ...m.now,
      events: m.now.events.some(same)
        ? m.now.events.filter((e) => !same(e))
        : [...m.now.events, { frame, foot, kind }].sort((a, b) => a.frame - b.frame),
    });
  };
  const drop = () => {
    if (!chosen) return;
    const [kind, name = "", n = ""] = chosen.split("/");
    if (kind === "pose") m.step(unfixed(m.now, frame, name as "left", n as "heel"));
    else if (kind === "at" && moment) {
      const { [name]: _, ...points } = moment.points;
      m.step(put(points));
    } else if (kind === "line") {
      const { [name as LineName]: _, ...rest } = m.now.picture;
      m.step({ ...m.now, picture: rest });
    }
    setChosen(null);
  };

  const mine = (fn: (e: KeyboardEvent) => unknown) => (e: KeyboardEvent) =>
    e.target instanceof HTMLElement && e.target.closest("[role=dialog],input") ? false : fn(e);
  /** Nudges a chosen point, or goes through the frames. */
  const nudge = (dx: number, dy: number, by: number) =>
    mine(() => {
      const at = chosen ? where(chosen) : undefined;
      if (chosen && at)
        m.step(
          moved(chosen, {
            x: Math.min(pic.width, Math.max(0, at.x + dx * by)),
            y: Math.min(pic.height, Math.max(0, at.y + dy * by)),
          }),
        );
      else if (dx !== 0) go(frame + dx);
      else return false;
    });
  const arrows = {
    ArrowLeft: [-1, 0],
    ArrowRight: [1, 0],
    ArrowUp: [0, -1],
    ArrowDown: [0, 1],
  } as const;
  useKeys([
    {
      show: "← →",
      does: "a frame back, a frame on; nudge a chosen point, by ten with Shift",
      on: Object.fromEntries(
        Object.entries(arrows).flatMap(([k, [dx, dy]]) => [
          [k, nudge(dx, dy, 1)],
          [`Shift+${k}`, nudge(dx, dy, 10)],
        ]),
      ),
    },
    {
      show: "PgUp PgDn",
      does: "ten frames",
      on: { PageUp: mine(() => go(frame - 10)), PageDown: mine(() => go(frame + 10)) },
    },
    {
      show: "Home End",
      does: "the first frame, the last",
      on: { Home: mine(() => go(0)), End: mine(() => go(count - 1)) },
    },
    {
      show: "Space",
      does: "play, stop",
      on: {
        Space: mine((e) => {
          if (photo || (e.target instanceof HTMLElement && e.target.closest("button,a,label"))) return false;
          setPlaying(!playing);
        }),
      },
    },
    {
      show: "q a",
      does: "left foot: contact, toe-off",
      on: { q: mine(() => event("left", "contact")), a: mine(() => event("left", "toe-off")) },
    },
    {
      show: "w s",
      does: "right foot: contact, toe-off",
      on: { w: mine(() => event("right", "contact")), s: mine(() => event("right", "toe-off")) },
    },
    { show: "Tab Enter", does: "through the places; Enter puts one in the middle" },
    { show: "Del", does: "take the chosen point away", on: { Delete: mine(drop), Backspace: mine(drop) } },
    {
      show: "Ctrl z y",
      does: "undo, redo",
      on: { "$mod+z": mine(() => m.undo()), "$mod+y": mine(() => m.redo()) },
    },
    {
      show: "Esc",
      does: "nothing chosen",
      on: {
        Escape: mine(() => {
          setChosen(null);
          setLine(null);
          setHalf(null);
          setBoxing(false);
          setAsking(false);
        }),
      },
    },
  ]);

  const read = useLatest(JSON.stringify({ marks: m.now, times: clip.times, runner: clip.runner }), (body) =>
    need(api.POST("/api/compute/clip-readings", { body: JSON.parse(body) as Schema["ClipReadInput"] })),
  );
  const bad =
    read.error instanceof Problem ? (Object.values(read.error.fields)[0] ?? read.error.message) : "";
  const shown: Mark[] = [
    ...pose,
    ...(["floor", "plumb", "scale"] as const).flatMap((name) =>
      (m.now.picture[name] ?? []).map((at, n) => ({
        id: `line/${name}/${n}`,
        name: lineNames[name],
        at,
        quiet: true,
      })),
    ),
    ...(half ? [{ id: "half", name: "", at: half }] : []),
    ...Object.entries(moment?.points ?? {}).map(([p, at]) => ({
      id: `at/${p}`,
      name: t?.places.find((s) => s.place === p)?.name ?? p,
      at,
    })),
  ];
  const lines = useMemo(() => {
    const out: Stroke[] = [];
    for (const name of ["floor", "plumb", "scale"] as const) {
      const [a, b] = m.now.picture[name] ?? [];
      if (a && b) out.push({ from: a, to: b });
    }
    for (const [a, b] of bones) {
      const p = moment?.points[a];
      const q = moment?.points[b];
      if (p && q) out.push({ from: p, to: q });
    }
    return out;
  }, [m.now.picture, moment]);
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
  const stop = useCallback(() => setPlaying(false), []);
  const onTime = useCallback((s: number) => setFrame(frameAt(clip.times, rate, s)), [clip.times, rate]);
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
            ahead={seekTo(clip.times, rate, Math.min(count - 1, Math.max(0, frame + way.current)))}
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
            onChoose={setChosen}
            onWheel={(by) => go(frame + by)}
            shot={shot}
          />
          {!photo && (
            <div className="mt-2 flex flex-wrap items-center gap-2">
              <button
                type="button"
                className="btn min-h-8"
                aria-label="−10, ten frames back"
                onClick={() => go(frame - 10)}
              >
                −10
              </button>
              <button
                type="button"
                className="btn min-h-8"
                aria-label="←, a frame back"
                onClick={() => go(frame - 1)}
              >
                ←
              </button>
              <button type="button" className="btn min-h-8 w-20" onClick={() => setPlaying(!playing)}>
                {playing ? "Stop" : "Play"}
              </button>
              <button
                type="button"
                className="btn min-h-8"
                aria-label="→, a frame on"
                onClick={() => go(frame + 1)}
              >
                →
              </button>
              <button
                type="button"
                className="btn min-h-8"
                aria-label="+10, ten frames on"
                onClick={() => go(frame + 10)}
              >
                +10
              </button>
              <Choice
                label="Speed"
                hideLabel
                compact
                options={[
                  { value: 0.25, label: "¼" },
                  { value: 0.5, label: "½" },
                  { value: 1, label: "1×" },
                ]}
                value={speed}
                onChange={setSpeed}
              />
              <p className="ml-auto" role="status">
                frame <b>{frame + 1}</b> of {count}
                <span className="text-ink-2">
                  {" "}
                  ·{" "}
                  {(((clip.times[frame] ?? frame / rate) - (clip.times[0] ?? 0)) / (m.now.slow || 1)).toFixed(
                    3,
                  )}{" "}
                  s
                </span>
              </p>
            </div>
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
            setBoxing={(on) => {
              setBoxing(on);
              setHalf(null);
              setLine(null);
            }}
            clearBox={() => setBox(null)}
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
                setAsking(on);
                setChosen(null);
                if (on) stage.current?.scrollIntoView({ block: "start" });
              }}
              take={
                pose.length > 0 && t?.places.some((s) => pose.some((x) => x.id === `pose/${side}/${s.place}`))
                  ? () => {
                      const points = { ...moment?.points };
                      for (const s of t.places) {
                        const at = pose.find((x) => x.id === `pose/${side}/${s.place}`)?.at;
                        if (at && !points[s.place]) points[s.place] = at;
                      }
                      const next = put(points);
                      m.step({
                        ...next,
                        moments: next.moments.map((x) =>
                          x.template === template && x.side === side && x.frame === frame
                            ? { ...x, by: "proposed" as const }
                            : x,
                        ),
                      });
                    }
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
          <Title
            aside={
              <span className="flex gap-2">
                <button type="button" className="btn-quiet" disabled={!m.canUndo} onClick={m.undo}>
                  undo
                </button>
                <button type="button" className="btn-quiet" disabled={!m.canRedo} onClick={m.redo}>
                  redo
                </button>
              </span>
            }
          >
            Mark
          </Title>
          <Choice
            label="Moment"
            hideLabel
            compact
            options={templates
              .filter((x) => x.view === (m.now.view === "side" ? "side" : "behind"))
              .map((x) => ({ value: x.id, label: x.name }))}
            value={template}
            onChange={(v) => {
              setTemplate(v);
              setChosen(null);
            }}
          />
          <div className="mt-2">
            <Choice
              label="Side"
              hideLabel
              compact
              options={[
                { value: "left", label: "left" },
                { value: "right", label: "right" },
              ]}
              value={side}
              onChange={setSide}
            />
          </div>
          <p className="mt-2 text-[14px] text-ink-2">{t?.hint}</p>
          <ol className="mt-2">
            {t?.places.map((s) => {
              const at = moment?.points[s.place];
              const is = next?.place === s.place && !line;
              return (
                <li
                  key={s.place}
                  className={`flex items-baseline gap-2 border-b border-rule ${is ? "bg-paper" : ""}`}
                >
                  <button
                    type="button"
                    className="flex min-h-8 flex-1 items-baseline gap-2 text-left"
                    aria-pressed={chosen === `at/${s.place}`}
                    onClick={() => {
                      if (at) setChosen(`at/${s.place}`);
                      else if (pic.width > 0) {
                        m.step(
                          put({
                            ...moment?.points,
                            [s.place]: { x: Math.round(pic.width / 2), y: Math.round(pic.height / 2) },
                          }),
                        );
                        setChosen(`at/${s.place}`);
                      }
                    }}
                  >
                    <span aria-hidden="true" className="w-4">
                      {at ? "●" : "○"}
                    </span>
                    <span className={is ? "font-semibold" : ""}>{s.name}</span>
                    <span className="ml-auto text-[13px] text-ink-2">
                      {at ? `${Math.round(at.x)}, ${Math.round(at.y)}` : is ? "click it" : ""}
                    </span>
                  </button>
                </li>
              );
            })}
          </ol>
          <div className="mt-3 flex flex-wrap gap-1.5">
            {(["floor", "plumb", "scale"] as const).map((name) => (
              <button
                key={name}
                type="button"
                aria-pressed={line === name}
                className={`min-h-8 rounded-[3px] border-[1.5px] px-2 text-[14px] font-semibold ${line === name ? "border-ink bg-ink text-chalk" : "border-edge bg-paper"}`}
                onClick={() => {
                  setLine(line === name ? null : name);
                  setHalf(null);
                }}
              >
                {lineNames[name]}
                {m.now.picture[name] ? " ✓" : ""}
              </button>
            ))}
          </div>
          {line && <p className="mt-1 text-[14px]">Click its {half ? "second" : "first"} point.</p>}
          {m.now.picture.scale && (
            <Field
              label="Length of the scale, cm"
              className="mt-2 w-44"
              inputMode="decimal"
              value={m.now.picture.scaleCm ?? ""}
              onChange={(e) =>
                m.step({
                  ...m.now,
                  picture: {
                    ...m.now.picture,
                    scaleCm: Number(e.target.value.replace(",", ".")) || undefined,
                  },
                })
              }
            />
          )}
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

/** The four edges of a box. */
const edges = (b: Box): Stroke[] => {
  const at = (x: number, y: number) => ({ x: b.x + x * b.size, y: b.y + y * b.size });
  return [
    { from: at(0, 0), to: at(1, 0) },
    { from: at(1, 0), to: at(1, 1) },
    { from: at(1, 1), to: at(0, 1) },
    { from: at(0, 1), to: at(0, 0) },
  ];
};

/** Which marked places are joined by a drawn line. */
const bones: [string, string][] = [
  ["ankle", "knee"],
  ["knee", "hip"],
  ["hip", "shoulder"],
  ["heel", "toe"],
  ["heel-stand", "toe-stand"],
  ["ball", "toe-tip"],
  ["floor-from", "floor-to"],
  ["pelvis-left", "pelvis-right"],
  ["achilles-low", "achilles-up"],
  ["heel-low", "heel-up"],
  ["foot", "midline"],
  ["highest", "lowest"],
];

function Settings({
  m,
  set,
  times,
  photo,
}: {
  m: Marks;
  set: (part: Partial<Marks>) => void;
  times: boolean;
  photo: boolean;
}) {
  const number = (text: string) => Number(text.replace(",", ".")) || undefined;
  return (
    <section aria-label="How it was filmed" className="mt-5">
      <Title aside="square-on, at hip height, 4 m away or more; perspective is not corrected">
        How it was filmed
      </Title>
      <div className="flex flex-wrap items-start gap-x-6 gap-y-3">
        <Choice
          label="From"
          compact
          options={[
            { value: "side", label: "the side" },
            { value: "behind", label: "behind" },
            { value: "front", label: "the front" },
          ]}
          value={m.view}
          onChange={(view) => set({ view })}
        />
        <Tick
          label="The runner runs to the left"
          on={!!m.picture.runsLeft}
          onChange={(runsLeft) => set({ picture: { ...m.picture, runsLeft: runsLeft || undefined } })}
        />
        {m.view === "side" && (
          <Choice
            label="Nearest the camera"
            compact
            options={[
              { value: "", label: "as it looks" },
              { value: "left", label: "left" },
              { value: "right", label: "right" },
            ]}
            value={m.near ?? ""}
            onChange={(near) => set({ near: near || undefined })}
          />
        )}
        {!photo && (
          <>
            <Field
              label="Slowed down"
              className="w-28"
              hint="filmed 240, plays 30: 8"
              inputMode="decimal"
              value={m.slow ?? 1}
              onChange={(e) => set({ slow: number(e.target.value) })}
            />
            {!times && (
              <Field
                label="Frames a second"
                className="w-32"
                hint="the file's own are not known here"
                inputMode="decimal"
                value={m.rate ?? ""}
                placeholder="30"
                onChange={(e) => set({ rate: number(e.target.value) })}
              />
            )}
            <Field
              label="Speed, km/h"
              className="w-28"
              inputMode="decimal"
              value={m.speedKmh ?? ""}
              onChange={(e) => set({ speedKmh: number(e.target.value) })}
            />
            <Field
              label="Incline, %"
              className="w-28"
              inputMode="decimal"
              value={m.inclinePercent ?? ""}
              onChange={(e) => set({ inclinePercent: number(e.target.value) })}
            />
            <Field
              label="Footwear"
              className="w-40"
              maxLength={40}
              value={m.footwear ?? ""}
              onChange={(e) => set({ footwear: e.target.value || undefined })}
            />
          </>
        )}
      </div>
    </section>
  );
}

/** What the marks give, with margins, verdicts and what would make them surer. */
function Read({
  clip,
  r,
  frame,
  template,
  apart,
  side,
  bad,
  go,
  shot,
  alone,
}: {
  clip: Clip;
  r: Result | undefined;
  frame: number;
  template: string;
  apart: boolean;
  side: string;
  bad: string;
  go: (frame: number) => void;
  shot: Shot;
  /** No proposal says the times already. */
  alone: boolean;
}) {
  if (bad)
    return (
      <p role="alert" className="mt-4 font-semibold text-clay">
        ▲ {bad}
      </p>
    );
  if (!r) return null;
  const here = r.moments.find(
    (x) => x.template === template && x.side === side && (x.frame === frame || apart),
  );
  const others = r.moments.filter((x) => x !== here && x.template !== "standing");
  return (
    <>
      <section aria-label="Measures" className="mt-5">
        <Title>Measures</Title>
        {here?.readings.map((j) => (
          <Row key={j.measure} j={j} clip={clip} shot={shot} />
        ))}
        {(here?.readings.length ?? 0) === 0 && <p className="text-ink-2">Mark the points of this moment.</p>}
        {r.says.map((s) => (
          <p key={s} className="mt-1 text-[14px]">
            {s}
          </p>
        ))}
      </section>
      {alone && r.gait && <Times gait={r.gait} times={r.times} spring={r.spring} clip={clip} shot={shot} />}
      {others.length > 0 && (
        <div className="mt-5">
          <Title>Other moments</Title>
          {others.map((x) => (
            <p key={`${x.template}${x.side}${x.frame}`} className="border-b border-rule py-1 text-[14px]">
              <button type="button" className="btn-quiet" onClick={() => go(x.frame)}>
                frame {x.frame + 1}
              </button>{" "}
              {x.template}, {x.side}:{" "}
              {x.readings
                .map((j) => `${j.name} ${digits(j)}${j.unit === "°" ? "°" : ` ${j.unit}`}`)
                .join(", ")}
            </p>
          ))}
        </div>
      )}
    </>
  );
}
