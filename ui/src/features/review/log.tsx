import { t } from "@lingui/core/macro";
import { useMutation } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "react-router";
import { Problem, type Schema } from "../../api/client";
import { useBlock, useDraft, useKeepBlock } from "../../api/hooks";
import { queued } from "../../api/queue";
import { plusDays, weekDay } from "../../parts/dates";
import { Area, Choice, painScale } from "../../parts/field";
import { useKeys } from "../../parts/keys";
import { Empty, Failed, Loading, SaveState } from "../../parts/states";
import { DayForm } from "./day";
import { Logged } from "./logged";
import { Everywhere, LogHead } from "./loghead";
import { LogRow } from "./logrow";
import {
  type Act,
  type Draft,
  firstDate,
  type Line,
  type Prescription,
  reduce,
  rowsOf,
  sessionOf,
  type Typed,
  typedOn,
  unsaved,
  usedOf,
} from "./model";
import { RoutineAsks, Which } from "./which";

export function LogView() {
  const { id = "" } = useParams();
  const b = useBlock(id);
  if (b.isPending) return <Loading what={t`the block`} />;
  if (b.error) return <Failed error={b.error} retry={() => void b.refetch()} />;
  if (!b.data)
    return (
      <Empty title={t`No block yet`}>
        <Link className="btn mt-2" to={`/runners/${id}`}>
          {t`To the runner`}
        </Link>
      </Empty>
    );
  return <Log key={b.data.id} b={b.data} />;
}

function Log({ b }: { b: Schema["Block"] }) {
  const draft = useDraft<Draft>(`logs:${b.id}`, { on: firstDate(b), days: {} });
  const go = useNavigate();
  const keep = useKeepBlock();
  const { on } = draft.value;
  const v = typedOn(draft.value);
  const act = (a: Act) => draft.set(reduce(draft.value, a));
  const toDay = (to: string) => act({ do: "day", to, from: b.startOn, until: b.today });
  const waiting = unsaved(draft.value);
  const routine = b.routines.find((r) => r.id === v.routine);
  const rows = rowsOf(b, routine?.id);
  const used = usedOf(rows, v);
  const save = useMutation({
    ...queued.session,
    onError: (e) => {
      if (!(e instanceof Problem && e.status === 401)) draft.renew();
    },
    onSuccess: (next, sent) => {
      const left = reduce(draft.value, { do: "saved", on: sent.body.on });
      const all = Object.keys(left.days).length === 0;
      if (all) draft.done();
      else draft.set(left);
      draft.renew();
      keep(next);
      if (all) go(`/runners/${b.runnerId}/block`);
    },
  });
  const send = () => save.mutate({ block: b.id, key: draft.key, body: sessionOf(b, on, v) });
  const bad = save.error instanceof Problem ? save.error.fields : {};
  const type = (part: Partial<Typed>) => act({ do: "type", part });
  const everywhere = (part: (p: Prescription) => Line) => act({ do: "rows", rows: used, part });
  const allClean = () => everywhere(() => ({ done: 1, clean: 0 }));
  useKeys([
    { show: "Tab", does: t`to the next question` },
    { show: "0 … 9", does: t`choose in the focused row; 1 then 0 is ten` },
    { show: "← →", does: t`move the choice` },
    { show: "c", does: t`all done, all clean`, on: { c: allClean } },
    {
      show: "m",
      does: t`to the morning and the day`,
      on: { m: () => document.querySelector<HTMLElement>("#day input[type=radio]")?.focus() },
    },
    {
      show: "p n",
      does: t`the day before, the day after`,
      on: { p: () => toDay(plusDays(on, -1)), n: () => toDay(plusDays(on, 1)) },
    },
    { show: t`Ctrl Enter`, does: t`save`, typing: true, on: { "$mod+Enter": () => send() } },
  ]);
  return (
    <>
      <form
        noValidate
        onSubmit={(e) => {
          e.preventDefault();
          send();
        }}
      >
        <LogHead b={b} on={on} waiting={waiting} toDay={toDay} allClean={allClean} bad={bad.on} />
        <Which b={b} on={on} v={v} type={type} />
        <Everywhere b={b} used={used} v={v} set={everywhere} />
        {[...new Set(rows.map((r) => r.p))].map((p) => (
          <section key={p.id} aria-label={p.name} className="border-t-2 border-ink">
            <h2 className="bg-paper px-3 py-1 text-[17px]">{p.name}</h2>
            {rows
              .filter((r) => r.p === p)
              .map((r) => (
                <LogRow
                  key={r.key}
                  b={b}
                  row={r}
                  l={v.lines[r.key] ?? {}}
                  set={(part) => act({ do: "row", key: r.key, part })}
                  bad={(field) => bad[`items[${used.indexOf(r)}].${field}`]}
                />
              ))}
          </section>
        ))}
        <div className="mt-4 grid gap-4 md:grid-cols-2">
          <Choice
            label={
              routine?.compare === "steps"
                ? t`Ten steps after it, compared with before`
                : t`Heel and toe walk after the session, compared with before`
            }
            options={[
              { value: "better", label: t`better` },
              { value: "same", label: t`same` },
              { value: "worse", label: t`worse` },
            ]}
            value={v.litmus}
            onChange={(litmus) => type({ litmus: litmus as Typed["litmus"] })}
          />
          {routine && <RoutineAsks r={routine} v={v} type={type} bad={bad} />}
          {on < b.today ? (
            <Choice
              label={t`First steps on ${weekDay(plusDays(on, 1))}, the morning after`}
              options={painScale}
              value={v.morning}
              onChange={(morning) => type({ morning })}
              error={bad.nextMorning}
            />
          ) : (
            <p className="text-ink-2">{t`The morning after is still to come; note it on the block then.`}</p>
          )}
          <Area
            label={t`Note`}
            rows={2}
            maxLength={2000}
            value={v.note}
            onChange={(e) => type({ note: e.target.value })}
          />
        </div>
        {bad.items && (
          <p role="alert" className="mt-4 font-semibold text-clay">
            ▲ {bad.items}
          </p>
        )}
        <div className="mt-5 flex flex-wrap items-center gap-4">
          <button type="submit" className="btn btn-main" disabled={save.isPending || used.length === 0}>
            {t`Save and decide`}
          </button>
          <Link className="btn" to={`/runners/${b.runnerId}/block`} onClick={draft.done}>
            {t`Cancel`}
          </Link>
          <SaveState error={save.error} saving={save.isPending} />
          <p className="text-[14px] text-ink-2">
            {t`What is left open counts as not known; it never helps a step up.`}
          </p>
        </div>
      </form>
      <Logged b={b} />
      <div className="mt-8">
        <DayForm runner={b.runnerId} on={on} />
      </div>
    </>
  );
}
