import { t } from "@lingui/core/macro";
import { Fragment } from "react";
import { api, need, Problem, type Schema } from "../../api/client";
import { useLatest } from "../../api/hooks";
import { Field, Select } from "../../parts/field";
import { SideName, Title } from "../../parts/marks";
import { kept, shown, unit } from "../../parts/measures";
import { Head } from "./head";
import { useMarks } from "./marks";
import { Row, Times } from "./readings";
import { Strip } from "./strip";
import type { Clip } from "./upload";

const places = [
  ["shoulder", "shoulder"],
  ["hip", "hip"],
  ["knee", "knee"],
  ["ankle", t`ankle bone`],
  ["heel", "heel"],
  ["toe", t`base of the little toe`],
] as const;

/** A marker file: which marker is which, and what all its strides give. */
export function MarkersDesk({ clip }: { clip: Clip }) {
  const m = useMarks(clip);
  const mapping = m.now.mapping ?? {};
  const read = useLatest(JSON.stringify(m.now), (body) =>
    need(
      api.POST("/api/clips/{id}/track", {
        params: { path: { id: clip.id } },
        body: JSON.parse(body) as Schema["ClipMarks"],
      }),
    ),
  );
  const bad = read.error
    ? read.error instanceof Problem
      ? (Object.values(read.error.fields)[0] ?? read.error.message)
      : read.error.message
    : "";
  const r = bad ? undefined : read.answer;
  const missing = places.filter(([p]) => !mapping[`left-${p}`] || !mapping[`right-${p}`]);
  return (
    <>
      <Head clip={clip} save={{ error: m.save.error, busy: m.save.isPending || m.waiting }} />
      <div className="grid gap-x-7 gap-y-6 lg:grid-cols-[minmax(0,1fr)_22rem]">
        <section aria-label={t`Markers`} className="min-w-0">
          <Title
            aside={t`${clip.markers.length} markers, ${clip.frames ?? 0} frames at ${clip.rate ?? 0} Hz`}
          >
            {t`Which marker is which`}
          </Title>
          <p className="mb-3 max-w-prose text-ink-2">
            {t`You do this once. Files with the same markers are mapped for you. Hip, heel and toe of both feet find the steps. Which way is up and forward is seen from the body.`}
          </p>
          <div className="grid grid-cols-2 gap-x-6 gap-y-3">
            {(["left", "right"] as const).map((side) => (
              <p key={side} className="border-b-2 border-ink pb-1">
                <SideName side={side} />
              </p>
            ))}
            {places.map(([place, name]) => (
              <Fragment key={place}>
                {(["left", "right"] as const).map((side) => (
                  <Select
                    key={side}
                    quiet
                    label={`${name}, ${side}`}
                    all={t`not in this file`}
                    options={clip.markers.map((x): [string, string] => [x, x])}
                    value={mapping[`${side}-${place}`] ?? ""}
                    onChange={(v) => {
                      const { [`${side}-${place}`]: _, ...rest } = mapping;
                      m.step({ ...m.now, mapping: v ? { ...rest, [`${side}-${place}`]: v } : rest });
                    }}
                  />
                ))}
              </Fragment>
            ))}
          </div>
          {missing.length > 0 && (
            <p className="mt-3 text-[14px]">
              {t`Without ${missing.map(([, n]) => n).join(", ")} some measures are missing.`}
            </p>
          )}
          <Field
            label={t`Speed, ${unit("km/h")}`}
            className="mt-4 w-28"
            hint={t`for force and stiffness`}
            inputMode="decimal"
            value={shown("km/h", m.now.speedKmh)}
            onChange={(e) =>
              m.step({
                ...m.now,
                speedKmh: kept("km/h", Number(e.target.value.replace(",", "."))) || undefined,
              })
            }
          />
          <p className="mt-3">
            <a className="btn-quiet" href={`/api/clips/${clip.id}/files/csv`} download>
              {t`Readings as a table`}
            </a>
          </p>
          {r && r.events.length > 0 && (
            <div className="mt-5">
              <Title aside={mended(r)}>{t`Steps found`}</Title>
              <Strip
                events={r.events.map((e) => ({ frame: e.frame, foot: e.foot, kind: e.kind }))}
                count={clip.frames ?? 1}
              />
            </div>
          )}
        </section>
        <section aria-label={t`Measures`} className="min-w-0">
          <Title aside={t`median of all steps`}>{t`Measures`}</Title>
          {bad && (
            <p role="alert" className="font-semibold text-clay">
              ▲ {bad}
            </p>
          )}
          {r?.readings.map((j) => (
            <Row key={`${j.measure}${j.side}`} j={j} clip={clip} />
          ))}
          {r?.says.map((s) => (
            <p key={s} className="mt-1 text-[14px]">
              {s}
            </p>
          ))}
          {r?.gait && <Times gait={r.gait} times={r.times} spring={r.spring} clip={clip} />}
        </section>
      </div>
    </>
  );
}

/** What was done to a track before it was read. */
export function mended(r: { filled: number; swapped: number }) {
  const words = [];
  if (r.filled > 0) words.push(t`${r.filled} points filled in`);
  if (r.swapped > 0) words.push(t`left and right put back in ${r.swapped} frames`);
  return words.join("; ") || t`no gaps, no swaps`;
}
