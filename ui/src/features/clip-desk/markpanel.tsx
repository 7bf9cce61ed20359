import { t } from "@lingui/core/macro";
import { Choice, Field } from "../../parts/field";
import { Title } from "../../parts/marks";
import type { Point } from "./marked";
import type { useMarks } from "./marks";
import {
  type Act,
  type Desk,
  lineList,
  lineNames,
  logged,
  type Moment,
  type Template,
  viewOf,
  type withPoints,
} from "./model";

/** What is marked: the moment, its places in order, lines and scale. */
export function MarkPanel({
  m,
  d,
  act,
  templates,
  t: time,
  moment,
  next,
  put,
  middle,
}: {
  m: ReturnType<typeof useMarks>;
  d: Desk;
  act: (a: Act) => void;
  templates: Template[];
  t: Template | undefined;
  moment: Moment | undefined;
  next: string | undefined;
  put: (points: Moment["points"]) => ReturnType<typeof withPoints>;
  middle: Point | undefined;
}) {
  const { template, side, chosen, line, half } = d;
  return (
    <>
      <Title
        aside={
          <span className="flex gap-2">
            <button type="button" className="btn-quiet" disabled={!m.canUndo} onClick={m.undo}>
              {t`Undo`}
            </button>
            <button type="button" className="btn-quiet" disabled={!m.canRedo} onClick={m.redo}>
              {t`Redo`}
            </button>
          </span>
        }
      >
        {t`Mark`}
      </Title>
      <Choice
        label={t`Moment`}
        hideLabel
        compact
        options={templates
          .filter((x) => x.view === viewOf(m.now.view))
          .map((x) => ({ value: x.id, label: x.name }))}
        value={template}
        onChange={(to) => act({ do: "template", to })}
      />
      <div className="mt-2">
        <Choice
          label={t`Side`}
          hideLabel
          compact
          options={[
            { value: "left", label: t`left` },
            { value: "right", label: t`right` },
          ]}
          value={side}
          onChange={(to) => act({ do: "side", to })}
        />
      </div>
      <p className="mt-2 text-[14px] text-ink-2">{time?.hint}</p>
      {time?.places.length === 0 && (
        <p className="mt-2">
          {moment ? (
            <span className="text-pine" role="status">{t`Kept as a log.`}</span>
          ) : (
            <button type="button" className="btn" onClick={() => m.step(logged(m.now, d))}>
              {t`Keep it as a log`}
            </button>
          )}
        </p>
      )}
      <ol className="mt-2">
        {time?.places.map((s) => {
          const at = moment?.points[s.place];
          const is = next === s.place && !line;
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
                  if (!at && !middle) return;
                  if (!at && middle) m.step(put({ ...moment?.points, [s.place]: middle }));
                  act({ do: "choose", id: `at/${s.place}` });
                }}
              >
                <span aria-hidden="true" className="w-4">
                  {at ? "●" : "○"}
                </span>
                <span className={is ? "font-semibold" : ""}>{s.name}</span>
                <span className="ml-auto text-[13px] text-ink-2">
                  {at ? `${Math.round(at.x)}, ${Math.round(at.y)}` : is ? t`click it` : ""}
                </span>
              </button>
            </li>
          );
        })}
      </ol>
      <div className="mt-3 flex flex-wrap gap-1.5">
        {lineList.map((name) => (
          <button
            key={name}
            type="button"
            aria-pressed={line === name}
            className={`min-h-8 rounded-[3px] border-[1.5px] px-2 text-[14px] font-semibold ${line === name ? "border-ink bg-ink text-chalk" : "border-edge bg-paper"}`}
            onClick={() => act({ do: "line", name })}
          >
            {lineNames[name]}
            {m.now.picture[name] ? " ✓" : ""}
          </button>
        ))}
      </div>
      {line && <p className="mt-1 text-[14px]">{t`Click its ${half ? t`second` : t`first`} point.`}</p>}
      {m.now.picture.scale && (
        <Field
          label={t`Length of the scale, cm`}
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
    </>
  );
}
