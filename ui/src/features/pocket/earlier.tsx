import { t } from "@lingui/core/macro";
import { useState } from "react";
import { weekDay } from "../../parts/dates";
import { sideName } from "../../parts/sidename";
import { Chip, Main, Page, Scale } from "./kit";
import { addDays, idOf, morningTold, openOn, type Sitting } from "./rules";
import type { Go } from "./today";
import type { Ready } from "./usepocket";

/** How far back a day may be told, as the coach's side takes it. */
const daysBack = 60;

/** A day that is over: what was not told of it yet, told late. */
export function Earlier({
  p,
  on,
  go,
  back,
}: {
  p: Ready;
  on: string;
  go: (g: Go) => void;
  back: () => void;
}) {
  const [doing, setDoing] = useState<Sitting>();
  const { plan } = p;
  if (doing) return <Log p={p} on={on} sitting={doing} back={() => setDoing(undefined)} />;
  const day = plan.days.find((d) => d.on === on);
  const open = openOn(plan, p.kept, on);
  const ramp = (day?.ramp ?? []).filter(
    (x) =>
      x.stage !== "cadence" &&
      x.stage !== "cue" &&
      !x.done &&
      !p.kept.some((k) => k.report.kind === "ramp" && k.report.on === on && k.report.ramp?.stage === x.stage),
  );
  return (
    <Page title={t`An earlier day`} back={back}>
      <label className="block">
        <span className="mb-1 block font-semibold">{t`Which day?`}</span>
        <input
          type="date"
          className="field min-h-13 text-[18px]"
          value={on}
          min={addDays(p.today, -daysBack)}
          max={addDays(p.today, -1)}
          onChange={(e) =>
            e.target.value && e.target.value < p.today && go({ to: "earlier", on: e.target.value })
          }
        />
      </label>
      <h2 className="mt-5 text-[22px]">{weekDay(on)}</h2>
      <ul className="mt-1">
        <Line
          name="First steps"
          done={morningTold(plan, p.kept, on)}
          act={t`tell them`}
          onClick={() => go({ to: "morning", on })}
        />
        <Line name={t`A run`} act={t`tell it`} onClick={() => go({ to: "run", on })} />
        {day?.sessions
          .filter((s) => s.items.some((i) => i.sides.length > 0))
          .map((s) => (
            <Line
              key={idOf(s)}
              name={s.name}
              done={!open.includes(s)}
              act={t`tell it`}
              onClick={() => setDoing(s)}
            />
          ))}
        {ramp.map((x) => (
          <Line
            key={x.stage}
            name={`${x.name} ${x.words}`}
            act="done"
            onClick={() => void p.tell({ kind: "ramp", on, ramp: { stage: x.stage, done: true } })}
          />
        ))}
      </ul>
      {!day && (
        <p className="mt-3 text-ink-2">
          {t`The sessions of that day are not on this phone. If you did one, write your coach a few words under How it goes.`}
        </p>
      )}
      <p className="mt-3 text-ink-2">{t`Your coach sees that it came late.`}</p>
    </Page>
  );
}

function Line({
  name,
  act,
  done,
  onClick,
}: {
  name: string;
  act: string;
  done?: boolean;
  onClick: () => void;
}) {
  return (
    <li className="flex min-h-13 items-center justify-between gap-3 border-b border-rule">
      <span>{name}</span>
      {done ? (
        <b className="text-pine">{t`told`}</b>
      ) : (
        <button type="button" className="btn min-h-11" onClick={onClick}>
          {act}
        </button>
      )}
    </li>
  );
}

type Share = "all" | "part" | "none";
const shares: [Share, string, number][] = [
  ["all", t`all of it`, 1],
  ["part", "part", 0.5],
  ["none", t`not done`, 0],
];

/** A session that is over, told from memory: how much of each, and how it hurt. */
function Log({ p, on, sitting, back }: { p: Ready; on: string; sitting: Sitting; back: () => void }) {
  const [told, setTold] = useState<Record<string, { share: Share; pain?: number }>>({});
  const rows = sitting.items.flatMap((item) =>
    item.sides.flatMap((side) => {
      const step = side.steps[0];
      return step ? [{ key: `${item.prescriptionId}/${side.side}`, item, side, step }] : [];
    }),
  );
  const of = (key: string) => told[key] ?? { share: "all" as Share };
  const did = rows.filter((r) => of(r.key).share !== "none");
  const send = async () => {
    const ok = await p.tell({
      kind: "session",
      on,
      session: {
        block: p.plan.block ?? "",
        kind: sitting.kind,
        routine: sitting.routine?.id,
        items: did.map(({ key, item, side, step }) => {
          const it = of(key);
          return {
            prescriptionId: item.prescriptionId,
            side: side.side,
            notch: step.notch,
            done: shares.find(([id]) => id === it.share)?.[2] ?? 1,
            pain: item.endsAll ? it.pain : undefined,
            soreSpot: item.endsAll ? undefined : it.pain,
          };
        }),
      },
    });
    if (ok) back();
  };
  return (
    <Page
      title={`${sitting.name}, ${weekDay(on)}`}
      back={back}
      foot={
        <Main disabled={did.length === 0} onClick={() => void send()}>
          {t`Tell my coach`}
        </Main>
      }
    >
      <p className="text-ink-2">{t`Leave the pain empty where you don't remember it.`}</p>
      {rows.map((r) => (
        <section key={r.key} className="mt-4 border-t border-rule pt-3">
          <h2 className="text-[18px]">
            {r.item.name}
            {r.side.side === "both" ? "" : `, ${sideName(r.side.side)}`}
          </h2>
          <p className="text-ink-2">{r.step.words}</p>
          <div className="mt-2 grid grid-cols-3 gap-2">
            {shares.map(([id, name]) => (
              <Chip
                key={id}
                on={of(r.key).share === id}
                onClick={() => setTold({ ...told, [r.key]: { ...of(r.key), share: id } })}
              >
                {name}
              </Chip>
            ))}
          </div>
          {of(r.key).share !== "none" && (
            <div className="mt-2">
              <Scale
                label={`${r.item.endsAll ? t`Pain` : t`Soreness`}, ${r.item.name} ${sideName(r.side.side)}`}
                value={of(r.key).pain}
                onPick={(pain) => setTold({ ...told, [r.key]: { ...of(r.key), pain } })}
                low={r.item.endsAll ? t`pain: 0 none` : t`sore: 0 not`}
                high={t`10 worst`}
              />
            </div>
          )}
        </section>
      ))}
    </Page>
  );
}
