import { useMutation } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "react-router";
import { Problem, type Schema } from "../../api/client";
import { useBlock, useDraft, useKeepBlock } from "../../api/hooks";
import { queued } from "../../api/queue";
import { plusDays, weekDay } from "../../parts/dates";
import { Area, Choice, Field, type Option, painScale } from "../../parts/field";
import { useKeys } from "../../parts/keys";
import { SideName } from "../../parts/marks";
import { Empty, Failed, Loading, SaveState } from "../../parts/states";
import { DayForm } from "./day";
import { Logged, NotNow, Seen } from "./logged";

type Block = Schema["Block"];
type Side = "left" | "right" | "both";
type Line = {
  pain?: number;
  done?: number;
  clean?: number;
  reserve?: number;
  noTime?: boolean;
  skipped?: boolean;
  cramp?: string;
  sore?: number;
  reacted?: boolean;
  sure?: number;
  mistakes?: string[];
  sets?: string;
  reps?: string;
  kg?: string;
};
type Typed = {
  lines: Record<string, Line>;
  morning?: number;
  litmus?: "better" | "same" | "worse";
  note: string;
};
/** What is typed stays with its day, so that a coach can go through a week. */
type Draft = { on: string; days: Record<string, Typed> };
const nothing: Typed = { lines: {}, note: "" };

const said = (list: Schema["AdjustChoice"][]): Option<number>[] =>
  list.map((c) => ({ value: c.value, label: c.words }));
const reserveScale: Option<number>[] = [0, 1, 2, 3, 4].map((v) => ({ value: v, label: String(v) }));
reserveScale.push({ value: 5, label: "5+" });

export function LogView() {
  const { id = "" } = useParams();
  const b = useBlock(id);
  if (b.isPending) return <Loading what="the block" />;
  if (b.error) return <Failed error={b.error} retry={() => void b.refetch()} />;
  if (!b.data)
    return (
      <Empty title="No block yet">
        <Link className="btn mt-2" to={`/runners/${id}`}>
          To the runner
        </Link>
      </Empty>
    );
  return <Log key={b.data.id} b={b.data} />;
}

const number = (s?: string) => (s?.trim() ? Number(s.replace(",", ".")) : undefined);

const lineKey = (prescription: string, side: Side) => `${prescription}/${side}`;

/** The oldest of the last days without a log, where one is open; today otherwise. */
function firstDate(b: Block) {
  const logged = new Set(b.weeks.flatMap((w) => w.days.filter((d) => d.logged).map((d) => d.on)));
  const yesterday = plusDays(b.today, -1);
  if (yesterday >= b.startOn && !logged.has(yesterday)) return yesterday;
  return b.today;
}

function Log({ b }: { b: Block }) {
  const draft = useDraft<Draft>(`logs:${b.id}`, { on: firstDate(b), days: {} });
  const go = useNavigate();
  const keep = useKeepBlock();
  const { on, days } = draft.value;
  const v = days[on] ?? nothing;
  const type = (part: Partial<Typed>) =>
    draft.set({ on, days: { ...days, [on]: { ...nothing, ...days[on], ...part } } });
  const toDay = (day: string) => {
    if (day >= b.startOn && day <= b.today) draft.set({ on: day, days });
  };
  const unsaved = Object.keys(days)
    .filter((d) => d !== on)
    .sort();
  const ladders = b.prescriptions.filter((p) => !p.byRamp);
  const rows = ladders.flatMap((p) =>
    (p.together ? (["both"] as Side[]) : (["left", "right"] as Side[])).map((side) => ({ p, side })),
  );
  const used = rows.filter(({ p, side }) => !v.lines[lineKey(p.id, side)]?.skipped);
  const save = useMutation({
    ...queued.session,
    onError: (e) => {
      if (!(e instanceof Problem && e.status === 401)) draft.renew();
    },
    onSuccess: (next, sent) => {
      const { [sent.body.on]: _, ...rest } = days;
      const left = Object.keys(rest).sort();
      if (left.length === 0) draft.done();
      else draft.set({ on: left[0] ?? on, days: rest });
      draft.renew();
      keep(next);
      if (left.length === 0) go(`/runners/${b.runnerId}/block`);
    },
  });
  const send = () =>
    save.mutate({
      block: b.id,
      key: draft.key,
      body: {
        on,
        note: v.note || undefined,
        litmus: v.litmus,
        nextMorning: on < b.today ? v.morning : undefined,
        items: used.map(({ p, side }) => {
          const l = v.lines[lineKey(p.id, side)] ?? {};
          return {
            prescriptionId: p.id,
            side,
            pain: p.purpose === "release" ? undefined : l.pain,
            soreSpot: p.purpose === "release" ? l.sore : undefined,
            reacted: l.reacted || undefined,
            crampAt: l.cramp ? Number(l.cramp) : undefined,
            done: l.done,
            compensated: l.clean,
            reserve: p.effort === "reserve" ? l.reserve : undefined,
            sureOfTwentyPercentMore: p.effort === "twenty" && l.sure !== undefined ? l.sure === 1 : undefined,
            noTime: l.noTime,
            mistakes: l.mistakes?.length ? l.mistakes : undefined,
            setsDone: number(l.sets),
            repsDone: number(l.reps),
            loadKg: number(l.kg),
          };
        }),
      },
    });
  const bad = save.error instanceof Problem ? save.error.fields : {};
  const set = (k: string, part: Line) => type({ lines: { ...v.lines, [k]: { ...v.lines[k], ...part } } });
  const everywhere = (part: (p: Block["prescriptions"][number]) => Line) => {
    const lines = { ...v.lines };
    for (const { p, side } of used) {
      const k = lineKey(p.id, side);
      lines[k] = { ...lines[k], ...part(p) };
    }
    type({ lines });
  };
  /** What every row that is asked says, where they agree; null is not asked. */
  const inAll = (read: (l: Line, p: Block["prescriptions"][number]) => number | null | undefined) => {
    const all = used.flatMap(({ p, side }) => {
      const x = read(v.lines[lineKey(p.id, side)] ?? {}, p);
      return x === null ? [] : [x];
    });
    return all.every((x) => x === all[0]) ? all[0] : undefined;
  };
  const allClean = () => everywhere(() => ({ done: 1, clean: 0 }));
  useKeys([
    { show: "Tab", does: "to the next question" },
    { show: "0 … 9", does: "choose in the focused row; 1 then 0 is ten" },
    { show: "← →", does: "move the choice" },
    { show: "c", does: "all done, all clean", on: { c: allClean } },
    {
      show: "m",
      does: "to the morning and the day",
      on: { m: () => document.querySelector<HTMLElement>("#day input[type=radio]")?.focus() },
    },
    {
      show: "p n",
      does: "the day before, the day after",
      on: { p: () => toDay(plusDays(on, -1)), n: () => toDay(plusDays(on, 1)) },
    },
    { show: "Ctrl Enter", does: "save", typing: true, on: { "$mod+Enter": () => send() } },
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
        <div className="mb-4 flex flex-wrap items-end gap-x-5 gap-y-3">
          <div className="mr-auto">
            <h1>
              <Link to={`/runners/${b.runnerId}`} className="hover:underline">
                {b.runnerName}
              </Link>
            </h1>
            <p className="mt-1 text-ink-2">Log the session of {weekDay(on)}</p>
          </div>
          <div className="flex gap-1">
            <button
              type="button"
              className="btn px-3"
              aria-label="The day before"
              disabled={on <= b.startOn}
              onClick={() => toDay(plusDays(on, -1))}
            >
              ←
            </button>
            <button
              type="button"
              className="btn px-3"
              aria-label="The day after"
              disabled={on >= b.today}
              onClick={() => toDay(plusDays(on, 1))}
            >
              →
            </button>
          </div>
          <Field
            label="Date"
            type="date"
            max={b.today}
            min={b.startOn}
            value={on}
            error={bad.on}
            onChange={(e) => toDay(e.target.value || b.today)}
          />
          <button type="button" className="btn" onClick={allClean}>
            All done, all clean
          </button>
        </div>
        {unsaved.length > 0 && (
          <p role="status" className="mb-3 flex flex-wrap items-center gap-2">
            Typed and not saved yet:
            {unsaved.map((d) => (
              <button key={d} type="button" className="btn-quiet" onClick={() => toDay(d)}>
                {weekDay(d)}
              </button>
            ))}
          </p>
        )}
        <div className="mb-4 flex flex-wrap items-end gap-x-8 gap-y-2 border-l-4 border-edge bg-paper p-3">
          <Choice
            label="Pain everywhere; change single rows below"
            compact
            options={painScale}
            value={inAll((l, p) => (p.purpose === "release" ? l.sore : l.pain))}
            onChange={(n) => everywhere((p) => (p.purpose === "release" ? { sore: n } : { pain: n }))}
          />
          <Choice
            label="Could do more, everywhere"
            compact
            options={reserveScale}
            value={inAll((l, p) => (p.effort === "reserve" ? l.reserve : null))}
            onChange={(n) =>
              everywhere((p) =>
                p.effort === "reserve"
                  ? { reserve: n }
                  : p.effort === "twenty"
                    ? { sure: n >= 2 ? 1 : 0 }
                    : {},
              )
            }
          />
        </div>
        {ladders.map((p) => (
          <section key={p.id} aria-label={p.name} className="border-t-2 border-ink">
            <h2 className="bg-paper px-3 py-1 text-[17px]">{p.name}</h2>
            {rows
              .filter((r) => r.p.id === p.id)
              .map(({ side }) => {
                const k = lineKey(p.id, side);
                const l = v.lines[k] ?? {};
                const notch = p.pegs.find((g) => side === "both" || g.side === side);
                const i = used.findIndex((u) => u.p.id === p.id && u.side === side);
                const name = `${p.name}, ${side}`;
                return (
                  <div
                    key={k}
                    className="flex flex-wrap items-start gap-x-6 gap-y-2 border-b border-rule px-3 py-2.5"
                  >
                    <div className="w-full lg:w-52">
                      <SideName side={side} />
                      <p className="text-[14px]">{notch && p.notches[notch.notch - 1]?.words}</p>
                      <NotNow p={p} side={side} />
                      <label className="flex items-center gap-2 text-[14px] text-ink-2">
                        <input
                          type="checkbox"
                          className="size-4 accent-[var(--ink)]"
                          checked={!!l.skipped}
                          onChange={(e) => set(k, { skipped: e.target.checked })}
                          aria-label={`${name}: not on this day`}
                        />
                        not on this day
                      </label>
                      {!l.skipped && p.purpose !== "release" && (
                        <label className="mt-1 flex items-center gap-2 text-[14px] text-ink-2">
                          cramp at rep
                          <input
                            className="field min-h-7 w-16 px-1.5 py-0"
                            inputMode="numeric"
                            aria-label={`${name}: cramp at repetition`}
                            aria-invalid={!!bad[`items[${i}].crampAt`]}
                            value={l.cramp ?? ""}
                            placeholder="none"
                            onChange={(e) => set(k, { cramp: e.target.value.replace(/\D/g, "") })}
                          />
                        </label>
                      )}
                    </div>
                    {!l.skipped && (
                      <>
                        {p.purpose === "release" ? (
                          <Group title="Worst sore spot after a hold">
                            <Choice
                              label={`${name}: worst sore spot after a hold, 0 to 10`}
                              hideLabel
                              compact
                              options={painScale}
                              value={l.sore}
                              onChange={(sore) => set(k, { sore })}
                              error={bad[`items[${i}].soreSpot`]}
                            />
                            <label className="mt-1 flex items-center gap-2 text-[14px]">
                              <input
                                type="checkbox"
                                className="size-4 accent-[var(--ink)]"
                                checked={!!l.reacted}
                                onChange={(e) => set(k, { reacted: e.target.checked })}
                              />
                              tired soles or night sweats after
                            </label>
                          </Group>
                        ) : (
                          <Group title="Worst pain during">
                            <Choice
                              label={`${name}: worst pain during, 0 to 10`}
                              hideLabel
                              compact
                              options={painScale}
                              value={l.pain}
                              onChange={(pain) => set(k, { pain })}
                              error={bad[`items[${i}].pain`]}
                            />
                          </Group>
                        )}
                        <Group title="Done">
                          <Choice
                            label={`${name}: done`}
                            hideLabel
                            compact
                            options={said(b.choices.done)}
                            value={l.done}
                            onChange={(done) => set(k, { done })}
                          />
                          {l.done !== undefined && l.done < 1 && (
                            <label className="mt-1 flex items-center gap-2 text-[14px]">
                              <input
                                type="checkbox"
                                className="size-4 accent-[var(--ink)]"
                                checked={!!l.noTime}
                                onChange={(e) => set(k, { noTime: e.target.checked })}
                              />
                              short of time
                            </label>
                          )}
                        </Group>
                        <Group title="Compensated">
                          <Choice
                            label={`${name}: repetitions with a compensation`}
                            hideLabel
                            compact
                            options={said(b.choices.compensated)}
                            value={l.clean}
                            onChange={(clean) => set(k, { clean })}
                          />
                        </Group>
                        <Seen p={p} side={side} l={l} set={(part) => set(k, part)} name={name} />
                        {p.effort === "twenty" && (
                          <Group title="Sure of 20 % more">
                            <Choice
                              label={`${name}: sure of 20 % more`}
                              hideLabel
                              compact
                              options={[
                                { value: 1, label: "yes" },
                                { value: 0, label: "no" },
                              ]}
                              value={l.sure}
                              onChange={(sure) => set(k, { sure })}
                            />
                          </Group>
                        )}
                        {p.effort === "reserve" && (
                          <Group title="Could do more">
                            <Choice
                              label={`${name}: repetitions left in reserve`}
                              hideLabel
                              compact
                              options={reserveScale}
                              value={l.reserve}
                              onChange={(reserve) => set(k, { reserve })}
                            />
                          </Group>
                        )}
                      </>
                    )}
                  </div>
                );
              })}
          </section>
        ))}
        <div className="mt-4 grid gap-4 md:grid-cols-2">
          <Choice
            label="Ten steps on heels and toes after the session, against before"
            options={[
              { value: "better", label: "better" },
              { value: "same", label: "same" },
              { value: "worse", label: "worse" },
            ]}
            value={v.litmus}
            onChange={(litmus) => type({ litmus: litmus as Typed["litmus"] })}
          />
          {on < b.today ? (
            <Choice
              label={`First steps on ${weekDay(plusDays(on, 1))}, the morning after`}
              options={painScale}
              value={v.morning}
              onChange={(morning) => type({ morning })}
              error={bad.nextMorning}
            />
          ) : (
            <p className="text-ink-2">The morning after is still to come; note it on the block then.</p>
          )}
          <Area
            label="Note"
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
            Save and decide
          </button>
          <Link className="btn" to={`/runners/${b.runnerId}/block`} onClick={draft.done}>
            Cancel
          </Link>
          <SaveState error={save.error} saving={save.isPending} />
          <p className="text-[14px] text-ink-2">
            What is left open counts as not known; it never helps a step up.
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

function Group({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <div>
      <p aria-hidden="true" className="mb-0.5 text-[13px] text-ink-2">
        {title}
      </p>
      {children}
    </div>
  );
}
