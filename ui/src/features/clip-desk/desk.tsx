import { t } from "@lingui/core/macro";
import { useQuery } from "@tanstack/react-query";
import { useParams } from "react-router";
import { api, need } from "../../api/client";
import { Failed, Loading } from "../../parts/states";
import { edges } from "./drawn";
import { Files } from "./files";
import { seekTo } from "./frames";
import { Head } from "./head";
import { LastTime, useLast } from "./last";
import { LookThrough } from "./lookthrough";
import { MarkersDesk } from "./markers";
import { MarkPanel } from "./markpanel";
import type { Template } from "./model";
import { taken } from "./onstage";
import { Propose } from "./proposals";
import { proposedLines } from "./proposed";
import { ProposedMeasures } from "./proposedmeasures";
import { Read } from "./readpanel";
import { Settings } from "./settings";
import { Stage } from "./stage";
import { Events } from "./strip";
import { Transport } from "./transport";
import type { Clip } from "./upload";
import { useDesk } from "./usedesk";
import { useWheel } from "./wheel";

/** Step a clip, mark points and events, see the measures live. */
export function DeskView() {
  const { id = "" } = useParams();
  const c = useQuery({
    queryKey: ["clip", id],
    queryFn: () => need(api.GET("/api/clips/{id}", { params: { path: { id } } })),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const time = useQuery({
    queryKey: ["clip-templates"],
    queryFn: () => need(api.GET("/api/clip-templates")),
    staleTime: Number.POSITIVE_INFINITY,
  });
  if (c.isPending || time.isPending) return <Loading what={t`the clip`} />;
  if (c.error) return <Failed error={c.error} retry={() => void c.refetch()} />;
  if (time.error) return <Failed error={time.error} retry={() => void time.refetch()} />;
  if (c.data.kind === "markers") return <MarkersDesk key={id} clip={c.data} />;
  return <Desk key={id} clip={c.data} templates={time.data.items} />;
}

function Desk({ clip, templates }: { clip: Clip; templates: Template[] }) {
  const desk = useDesk(clip, templates);
  const {
    m,
    photo,
    pic,
    setPic,
    count,
    d,
    act,
    stage,
    t: time,
    moment,
    next,
    go,
    proposed,
    notRead,
    asked,
  } = desk;
  const { pose, put, place, begun, moveTo, event, read, bad, shown, lines, shot, stop, onTime, rate, i } =
    desk;
  const { frame, playing, speed, template, side, chosen, line, box, boxing, asking } = d;
  const strip = useWheel((by) => go(frame + by));
  const last = useLast(clip, template);
  return (
    <>
      <Head clip={clip} save={{ error: m.save.error, busy: m.save.isPending || m.waiting }} />
      <div className="grid gap-x-7 gap-y-6 lg:grid-cols-[minmax(0,1fr)_22rem]">
        <section ref={stage} aria-label={t`The clip`} className="min-w-0">
          {asked && (
            <p role="status" className="mb-1 bg-ink px-3 py-1.5 font-semibold text-chalk">
              {t`${asked.what === "contact" ? t`Contact` : t`Sole flat`}, ${asked.foot}: click the heel, then the toe, both under the sole. Esc leaves it.`}
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
            first={clip.times[0] ?? 0}
            frameOf={desk.frameOf}
            onTime={onTime}
            onThere={desk.onThere}
            onPlace={place}
            onMove={moveTo}
            onDone={() => {
              begun.current = false;
            }}
            onChoose={(id) => act({ do: "choose", id })}
            over={last.on && last.clip ? `/api/clips/${last.clip.id}/file` : undefined}
            shot={shot}
          />
          <LastTime last={last} />
          <div ref={strip}>
            {!photo && (
              <Transport
                d={d}
                act={act}
                go={go}
                count={count}
                there={desk.there}
                seconds={((clip.times[frame] ?? frame / rate) - (clip.times[0] ?? 0)) / (m.now.slow || 1)}
              />
            )}
            {!photo && (
              <Events
                m={m.now}
                proposed={proposed}
                count={count}
                frame={frame}
                onFrame={go}
                onEvent={event}
              />
            )}
          </div>
          <p className="text-[13px] text-ink-2 pointer-coarse:hidden">
            {photo
              ? t`The wheel zooms on the picture.`
              : t`The wheel zooms on the picture and steps through the frames here.`}
          </p>
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
                pose.length > 0 &&
                time?.places.some((s) => pose.some((x) => x.id === `pose/${side}/${s.place}`))
                  ? () => m.step(taken(m.now, i, d, time, pose))
                  : null
              }
            />
          )}
          <Files
            clip={clip}
            frame={frame}
            scaled={!!(m.now.picture.scale && m.now.picture.scaleCm)}
            shot={shot}
          />
          <Settings
            m={m.now}
            set={(part) => m.step({ ...m.now, ...part })}
            times={clip.times.length > 0}
            photo={photo}
          />
        </section>
        <section aria-label={t`Marks and measures`} className="min-w-0">
          <MarkPanel
            m={m}
            d={d}
            act={act}
            templates={templates}
            t={time}
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
            apart={!!time?.apart}
            side={side}
            bad={bad}
            go={go}
            shot={shot}
            log={time?.places.length === 0}
            alone={!proposed?.gait}
          />
          {proposed && <ProposedMeasures read={proposed} clip={clip} shot={shot} />}
        </section>
      </div>
    </>
  );
}
