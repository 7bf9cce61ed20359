import { t } from "@lingui/core/macro";
import type { Schema } from "../../api/client";
import { Title } from "../../parts/marks";
import { digits, Row, type Shot, Times } from "./readings";
import type { Clip } from "./upload";

type Result = Schema["ClipResult"];

/** What the marks give, with margins, verdicts and what would make them surer. */
export function Read({
  clip,
  r,
  frame,
  template,
  apart,
  side,
  bad,
  go,
  shot,
  log,
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
  /** Nothing is placed in this moment. */
  log: boolean;
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
      <section aria-label={t`Measures`} className="mt-5">
        <Title>{t`Measures`}</Title>
        {here?.readings.map((j) => (
          <Row
            key={j.measure}
            j={j}
            clip={clip}
            shot={shot}
            from={`${here.template}/${here.side}/${apart ? "" : here.frame}`}
          />
        ))}
        {(here?.readings.length ?? 0) === 0 && (
          <p className="text-ink-2">
            {here?.into !== undefined
              ? t`Read into frame ${here.into + 1}, half-way between the two.`
              : log
                ? t`A log: nothing is measured.`
                : t`Mark the points of this moment.`}
          </p>
        )}
        {r.says.map((s) => (
          <p key={s} className="mt-1 text-[14px]">
            {s}
          </p>
        ))}
      </section>
      {alone && r.gait && <Times gait={r.gait} times={r.times} spring={r.spring} clip={clip} shot={shot} />}
      {others.length > 0 && (
        <div className="mt-5">
          <Title>{t`Other moments`}</Title>
          {others.map((x) => (
            <p key={`${x.template}${x.side}${x.frame}`} className="border-b border-rule py-1 text-[14px]">
              <button type="button" className="btn-quiet" onClick={() => go(x.frame)}>
                {t`Frame ${x.frame + 1}`}
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
