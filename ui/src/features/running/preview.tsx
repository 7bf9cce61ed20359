import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, need, type Schema } from "../../api/client";
import { weekDay } from "../../parts/dates";
import { distance } from "../../parts/measures";
import type { Answers, Seen } from "./bring";
import { km } from "./hooks";

type Outing = Schema["Outing"];
type Row = { x: Seen; o: Outing; key: string };
const shown = 60;

/** What becomes of an outing with the answers given. */
const becomes = (r: Row, answers: Answers): string => {
  if (r.o.known && r.o.takes === "out") return "known";
  return answers[r.key] ?? r.o.takes;
};

/** Everything that was read, before it counts: what it is, what is asked, what it would do. */
export function Preview({
  id,
  seen,
  answers,
  answer,
  accept,
  drop,
  busy,
}: {
  id: string;
  seen: readonly Seen[];
  answers: Answers;
  answer: (key: string, a: "run" | "walk" | "out") => void;
  accept: (list: Seen[]) => void;
  drop: () => void;
  busy: boolean;
}) {
  const [all, setAll] = useState(false);
  const rows: Row[] = seen.flatMap((x) =>
    (x.result?.outings ?? []).map((o) => ({ x, o, key: `${x.key}/${o.place}` })),
  );
  const count = (what: string) => rows.filter((r) => becomes(r, answers) === what).length;
  const runs = rows
    .filter((r) => becomes(r, answers) === "run")
    .map((r) => ({ on: r.o.on as string, metres: r.o.metres, seconds: r.o.seconds }));
  const effect = useQuery({
    queryKey: ["effect", id, runs],
    queryFn: () =>
      need(api.POST("/api/runners/{id}/runs/effect", { params: { path: { id } }, body: { runs } })),
    enabled: runs.length > 0 && !busy,
    placeholderData: (before) => before,
  });
  const asked = rows.filter((r) => becomes(r, answers) === "asked");
  const silent = asked.filter((r) => r.o.asks.length === 1 && r.o.what === "asked");
  const order = [...rows].sort((a, b) => Number(asked.includes(b)) - Number(asked.includes(a)));
  const e = effect.data;
  return (
    <section aria-label={t`Before it counts`} className="mb-6 border-l-4 border-ink bg-paper p-4">
      <h3 className="text-[18px]">{t`Before it counts`}</h3>
      <p role="status">
        {t`${count("run")} ${count("run") === 1 ? t`run comes` : t`runs come`} in${count("walk") > 0 ? t`, ${count("walk")} kept as ${count("walk") === 1 ? t`a walk` : t`walks`}` : ""}${count("known") > 0 ? t`, ${count("known")} there already` : ""}${count("out") > 0 ? t`, ${count("out")} left out` : ""}`}
        {asked.length > 0 && (
          <b className="text-clay">
            {t`, ${asked.length} ${plural(asked.length, { one: "waits", other: "wait" })} for your answer`}
          </b>
        )}
        .
      </p>
      {runs.length > 0 && e && (
        <p className="text-[14px]">
          <Trans>
            This week {km(e.before.metres)} → <b>{distance(e.after.metres)}</b>, as usual up to{" "}
            {e.before.steadyTo > 0 ? km(e.before.steadyTo) : t`not known`} →{" "}
            <b>{e.after.steadyTo > 0 ? distance(e.after.steadyTo) : t`not known`}</b>: {e.after.words}.
          </Trans>
        </p>
      )}
      {silent.length > 1 && (
        <p className="mt-1 text-[14px]">
          {t`All ${silent.length} that don't say what they were are `}
          {(["run", "walk", "out"] as const).map((a) => (
            <button
              key={a}
              type="button"
              className="btn-quiet mr-2"
              onClick={() => {
                for (const r of silent) answer(r.key, a);
              }}
            >
              {{ run: "runs", walk: "walks", out: "neither" }[a]}
            </button>
          ))}
        </p>
      )}
      <ul className="mt-2 text-[14px]">
        {order.slice(0, all ? undefined : shown).map((r) => (
          <OutingRow
            key={r.key}
            r={r}
            is={becomes(r, answers)}
            answer={(a) => answer(r.key, a)}
            alone={seen.length > 1 ? () => accept([r.x]) : undefined}
            busy={busy}
          />
        ))}
      </ul>
      {!all && order.length > shown && (
        <button type="button" className="btn-quiet" onClick={() => setAll(true)}>
          {t`Show all ${order.length}`}
        </button>
      )}
      <div className="mt-3 flex flex-wrap gap-2">
        <button
          type="button"
          className="btn btn-main"
          disabled={busy || count("run") + count("walk") + count("known") === 0}
          onClick={() => accept([...seen])}
        >
          {t`Take them in`}
        </button>
        <button type="button" className="btn" disabled={busy} onClick={drop}>
          {t`Leave it`}
        </button>
      </div>
      {asked.length > 0 && (
        <p className="mt-1 text-[14px] text-ink-2">
          {t`What has no answer stays out. An answer on what it was holds for the next files of the same source.`}
        </p>
      )}
    </section>
  );
}

const names: Record<string, string> = {
  run: "run",
  walk: "walk",
  out: t`left out`,
  known: t`there already`,
};

function OutingRow({
  r,
  is,
  answer,
  alone,
  busy,
}: {
  r: Row;
  is: string;
  answer: (a: "run" | "walk" | "out") => void;
  alone?: () => void;
  busy: boolean;
}) {
  const o = r.o;
  if (o.error)
    return (
      <li className="border-t border-rule py-1.5">
        <b className="break-all">{o.file}</b>{" "}
        <span className="text-clay">
          <span aria-hidden="true">▲ </span>
          {o.error}
        </span>
      </li>
    );
  const what = `${weekDay(o.on as string)}${o.at ? ` ${o.at}` : ""}`;
  const minutes = Math.round(o.seconds / 60);
  const whole = o.elapsed ? Math.round(o.elapsed / 60) : 0;
  return (
    <li
      className={`grid gap-x-4 border-t border-rule py-1.5 border-l-4 pl-2 lg:grid-cols-[8.5rem_4.5rem_7rem_4.5rem_minmax(0,1fr)_26rem] ${is === "asked" ? "border-l-clay" : "border-l-transparent"}`}
    >
      <b>{what}</b>
      <span className="lg:text-right">{distance(o.metres)}</span>
      <span className="lg:text-right">{t`${minutes} min${whole > minutes ? t` of ${whole}` : ""}`}</span>
      <span className="lg:text-right">
        {o.cadence && o.what !== "other" ? t`${Math.round(o.cadence)} spm` : ""}
      </span>
      <div className="min-w-0">
        <p className="break-words text-ink-2">
          {[
            o.sport && t`said to be ${o.sport}`,
            o.name && `“${o.name}”`,
            (o.laps ?? 0) > 1 && t`${o.laps ?? ""} laps`,
            o.device,
            o.file,
          ]
            .filter(Boolean)
            .join(" · ")}
        </p>
        {o.known && <p>{o.known}</p>}
        {o.old && is === "run" && (
          <p className="text-ink-2">{t`Older than the weeks that steer: it stays in the history.`}</p>
        )}
        {o.notes.map((n) => (
          <p key={n} className="text-ink-2">
            {n}
          </p>
        ))}
        {(o.takes === "asked" || is === "out") && o.what !== "run" && o.why.length > 0 && (
          <p>{o.why.join("; ")}.</p>
        )}
        {o.asks.map((a) => (
          <p key={a} className="font-semibold">
            {a}
          </p>
        ))}
      </div>
      {o.known && o.takes === "out" ? (
        <span className="font-semibold">{names.known}</span>
      ) : (
        <p className="flex flex-wrap items-baseline gap-x-3">
          {(["run", "walk", "out"] as const).map((a) => (
            <label key={a} className="flex items-center gap-1.5">
              <input
                type="radio"
                className="h-6 w-6 accent-[var(--ink)]"
                name={r.key}
                aria-label={`${what}: ${names[a]}`}
                checked={is === a}
                disabled={busy}
                onChange={() => answer(a)}
              />
              {{ run: t`a run`, walk: t`a walk or hike`, out: t`leave it out` }[a]}
            </label>
          ))}
          {alone && is !== "asked" && (
            <button type="button" className="btn-quiet" disabled={busy} onClick={alone}>
              {t`Only this file`}
            </button>
          )}
        </p>
      )}
    </li>
  );
}
