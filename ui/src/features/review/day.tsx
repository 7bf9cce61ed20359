import { t } from "@lingui/core/macro";
import { useMutation, useQuery } from "@tanstack/react-query";
import { lazy, Suspense, useEffect, useState } from "react";
import { api, need, Problem, type Schema } from "../../api/client";
import { queued } from "../../api/queue";
import { CarePage } from "../../parts/care";
import { weekDay } from "../../parts/dates";
import { Choice, painScale } from "../../parts/field";
import { Title } from "../../parts/marks";
import { Failed, Loading, SaveState } from "../../parts/states";
import { Tick } from "../../parts/tick";
import { Why } from "../../parts/why";
import { useTouch } from "../running/hooks";
import { Labelled, Minutes } from "./dayparts";
import { NewPlace, Questions } from "./place";

const Slip = lazy(async () => ({ default: (await import("./slip")).Slip }));

type Day = Schema["DayInput"];

export type Place = Schema["PlaceReading"];

const useDay = (runner: string, on: string) =>
  useQuery({
    queryKey: ["day", runner, on],
    queryFn: () => need(api.GET("/api/runners/{id}/days/{on}", { params: { path: { id: runner, on } } })),
  });

/** What a day was like: readings by place, sleep, illness, anything new. */
export function DayForm({ runner, on }: { runner: string; on: string }) {
  const day = useDay(runner, on);
  if (day.isPending) return <Loading what={t`the day`} />;
  if (day.error) return <Failed error={day.error} retry={() => void day.refetch()} />;
  return <Fields key={on} runner={runner} d={day.data} again={() => void day.refetch()} />;
}

function Fields({ runner, d, again }: { runner: string; d: Schema["DayState"]; again: () => void }) {
  const touch = useTouch(runner);
  const [day, setDay] = useState<Day>(d.day);
  useEffect(() => setDay(d.day), [d.day]);
  const send = useMutation({
    ...queued.day,
    scope: { id: `day/${runner}/${d.on}` }, // one after the other, in the order typed
    onSuccess: () => {
      touch();
      again();
    },
    onError: (e) => {
      if (!(e instanceof Problem && e.fields.reason)) again(); // somebody else was first: show what stands
    },
  });
  const put = { ...send, mutate: (body: Day) => send.mutate({ runner, on: d.on, body }) };
  const fields = put.error instanceof Problem ? put.error.fields : {};
  const bad = Object.entries(fields).find(([k]) => k !== "reason")?.[1];
  // Readings of one place go alone; the rest of the day goes with them as it is.
  const read = (p: Place) => put.mutate({ ...day, readings: [p] });
  const set = (part: Partial<Day>) => {
    const next = { ...day, ...part };
    setDay(next);
    put.mutate({ ...next, readings: [] });
  };
  return (
    <section id="day" aria-label={t`The day, ${weekDay(d.on)}`}>
      <Title aside={t`saved at once; what is left open is not known`}>
        {t`${weekDay(d.on)}, the morning and the day`}
      </Title>
      {d.care && <CarePage care={d.care} />}
      {!d.care && d.raised.length > 0 && (
        <p role="alert" className="mb-3 border-l-4 border-clay bg-clay-wash p-3">
          <b>▲ {[...new Set(d.raised.map((f) => f.text))].join(" ")}</b>
        </p>
      )}
      {d.warnings.map((w) => (
        <p key={w} role="alert" className="mb-3 font-semibold text-clay">
          ▲ {w}
        </p>
      ))}
      {d.slips.map((s) => (
        <Suspense key={s.key} fallback={null}>
          <Slip
            runner={runner}
            on={d.on}
            s={s}
            done={() => {
              touch();
              again();
            }}
          />
        </Suspense>
      ))}
      <div className="grid gap-x-8 gap-y-3 lg:grid-cols-2">
        {d.places.map((p) => (
          <div key={`${p.zone}${p.side}`} className="border-b border-rule pb-2">
            <p className="font-semibold">{p.name === "first steps, in general" ? t`In general` : p.name}</p>
            <div className="flex flex-wrap gap-x-5 gap-y-1">
              <Labelled text={t`first steps`}>
                <Choice
                  label={t`${p.name}: first steps`}
                  hideLabel
                  compact
                  options={painScale}
                  value={p.firstStep}
                  onChange={(firstStep) => read({ zone: p.zone, side: p.side, firstStep, rest: p.rest })}
                />
              </Labelled>
              <Labelled text={t`at rest`}>
                <Choice
                  label={t`${p.name}: at rest`}
                  hideLabel
                  compact
                  options={painScale}
                  value={p.rest}
                  onChange={(rest) => read({ zone: p.zone, side: p.side, firstStep: p.firstStep, rest })}
                />
              </Labelled>
            </div>
          </div>
        ))}
        <div className="flex flex-wrap items-start gap-x-6 gap-y-2">
          <Choice
            label={t`Ill`}
            compact
            options={[
              { value: "", label: t`no` },
              { value: "cold", label: t`without fever` },
              { value: "fever", label: t`fever, chest or whole body` },
            ]}
            value={day.illness ?? ""}
            onChange={(v) => set({ illness: (v || undefined) as Day["illness"] })}
          />
          <Choice
            label={t`Sleep`}
            compact
            options={[
              { value: "", label: t`fine` },
              { value: "poor", label: t`poor` },
              { value: "short", label: t`under six hours` },
            ]}
            value={day.shortSleep ? "short" : day.poorSleep ? "poor" : ""}
            onChange={(v) => set({ poorSleep: v === "poor", shortSleep: v === "short" })}
          />
          <Choice
            label={t`Calves`}
            compact
            options={painScale}
            value={day.calfSoreness}
            onChange={(calfSoreness) => set({ calfSoreness })}
          />
          <Tick
            label={t`A bone of the ball or top of the foot is tender`}
            on={!!day.boneTender}
            onChange={(boneTender) => set({ boneTender, answers: undefined })}
          />
          <Minutes
            key={day.barefootMinutes}
            value={day.barefootMinutes}
            onChange={(barefootMinutes) => set({ barefootMinutes })}
          />
        </div>
        <NewPlace
          list={day.new ?? []}
          onAdd={(p) => set({ new: [...(day.new ?? []), p], answers: undefined })}
          onDrop={(i) => set({ new: (day.new ?? []).filter((_, k) => k !== i) })}
        />
      </div>
      {fields.reason && put.variables && (
        <Why
          say={fields.reason}
          onSay={(reason) => put.variables && put.mutate({ ...put.variables.body, reason })}
          onLeave={() => {
            setDay(d.day);
            put.reset();
          }}
        />
      )}
      {d.open.map((o) => (
        <p key={`${o.zone}${o.side}`} role="alert" className="mt-3 border-l-4 border-clay bg-clay-wash p-3">
          <b>▲ {o.name}.</b> {o.words}
        </p>
      ))}
      {d.ask.length > 0 && <Questions groups={d.ask} onDone={(answers) => set({ answers })} />}
      {bad && (
        <p role="alert" className="text-clay">
          ▲ {bad}
        </p>
      )}
      <SaveState error={bad || fields.reason ? null : put.error} saving={put.isPending} />
    </section>
  );
}
