import { t } from "@lingui/core/macro";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { api, need, type Schema } from "../../api/client";
import { Title } from "../../parts/marks";
import { RunnerHead } from "../../parts/runnerhead";
import { Failed, Loading } from "../../parts/states";
import { capital } from "../shelf/hooks";
import type { School } from "../shelf/schools";
import { type PlanView, sessionName, useWishes, weekdays } from "./hooks";

/** The same runner under two schools side by side, with what differs and why. */
export function CompareSchools() {
  const { id = "" } = useParams();
  const w = useWishes(id);
  if (w.isPending) return <Loading what={t`the schools`} />;
  if (w.error) return <Failed error={w.error} retry={() => void w.refetch()} />;
  return <Compare id={id} v={w.data} />;
}

function Compare({ id, v }: { id: string; v: Schema["WishesView"] }) {
  const usual: School = {
    ...v.practice,
    ...Object.fromEntries(Object.entries(v.wishes.school ?? {}).filter(([, x]) => x)),
  };
  const [a, setA] = useState<School>(usual);
  const [b, setB] = useState<School>({ ...usual, "sole-treatment": "calm-first", when: "away" });
  const both = useQuery({
    queryKey: ["compare", id, a, b],
    queryFn: () =>
      need(api.POST("/api/runners/{id}/plan-compare", { params: { path: { id } }, body: { a, b } })),
    placeholderData: (before) => before,
    staleTime: 0,
  });
  const is = (s: School, q: Schema["PlanningQuestion"]) => s[q.id] || q.default;
  const differ = v.questions.filter((q) => is(a, q) !== is(b, q));
  return (
    <>
      <RunnerHead id={id} name={both.data?.a.runnerName} here="plan" page={t`Two schools compared`} slim>
        <Link className="btn" to={`/runners/${id}/plan`}>
          {t`Back to the plan`}
        </Link>
      </RunnerHead>
      {both.error && <Failed error={both.error} retry={() => void both.refetch()} />}
      {both.data && (
        <section aria-label={t`What differs`} className="mb-6">
          <Title aside={t`${both.data.words.length} differences`}>{t`What differs, from A to B`}</Title>
          {both.data.words.length === 0 ? (
            <p className="text-ink-2">
              {t`For this runner both make the same plan. Choose another position below.`}
            </p>
          ) : (
            <ul className="list-disc pl-5 lg:columns-2 lg:gap-x-10">
              {both.data.words.map((x) => (
                <li key={x} className="break-inside-avoid">
                  {capital(x)}
                </li>
              ))}
            </ul>
          )}
        </section>
      )}
      {both.data && (
        <div className="mb-8 grid gap-x-8 gap-y-5 lg:grid-cols-2">
          <Half name="A" plan={both.data.a} other={both.data.b} />
          <Half name="B" plan={both.data.b} other={both.data.a} />
        </div>
      )}
      <section aria-label={t`Positions`}>
        <Title aside={t`${differ.length} of ${v.questions.length} differ`}>{t`Positions`}</Title>
        <table className="w-full border-collapse text-[14px]">
          <thead>
            <tr className="text-left">
              <th scope="col" className="py-1">
                {t`Question`}
              </th>
              <th scope="col" className="py-1">
                A
              </th>
              <th scope="col" className="py-1">
                B
              </th>
            </tr>
          </thead>
          <tbody>
            {v.questions.map((q) => (
              <tr key={q.id} className={`border-t border-rule ${differ.includes(q) ? "bg-paper" : ""}`}>
                <th scope="row" className="py-1.5 pr-3 text-left font-normal">
                  {differ.includes(q) && (
                    <span aria-hidden="true" className="mr-1.5 font-bold">
                      ≠
                    </span>
                  )}
                  <b>{q.ask}</b>
                  <span className="block text-ink-2">
                    {t`changes ${q.effect}; by default ${q.positions.find((p) => p.id === q.default)?.name ?? ""}, because ${q.why}`}
                  </span>
                </th>
                {(
                  [
                    ["A", a, setA],
                    ["B", b, setB],
                  ] as const
                ).map(([name, s, set]) => (
                  <td key={name} className="w-52 py-1.5 pr-2 align-top">
                    <select
                      className="field min-h-9 py-1"
                      aria-label={`${q.ask} ${name}`}
                      value={is(s, q)}
                      onChange={(e) => set({ ...s, [q.id]: e.target.value })}
                    >
                      {q.positions.map((p) => (
                        <option key={p.id} value={p.id}>
                          {p.name}
                        </option>
                      ))}
                    </select>
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </section>
    </>
  );
}

function Half({ name, plan, other }: { name: string; plan: PlanView; other: PlanView }) {
  const there = new Map(other.choices.map((c) => [c.ladder, c]));
  return (
    <section aria-label={t`School ${name}`} className="min-w-0">
      <Title aside={t`${plan.minutes.planned} min a week${plan.fits ? "" : t`, does not fit`}`}>{name}</Title>
      <ol className="mb-3 grid grid-cols-7 gap-1 text-[12px]">
        {weekdays.map((d, i) => (
          <li key={d} className="min-w-0">
            <b>{d}</b>
            {(plan.days[i] ?? []).map((s) => (
              <span key={s.kind} className="block truncate">
                {sessionName[s.kind]} {s.seconds > 0 && Math.ceil(s.seconds / 60)}
              </span>
            ))}
          </li>
        ))}
      </ol>
      <ul>
        {plan.choices.map((c) => {
          const o = there.get(c.ladder);
          const news = !o
            ? t`only in ${name}`
            : o.words !== c.words || o.ceiling !== c.ceiling || o.days.join() !== c.days.join()
              ? "differs"
              : "";
          return (
            <li
              key={c.ladder}
              className={`flex justify-between gap-3 border-b border-rule py-1.5 text-[14px] ${news ? "border-l-4 border-l-ink bg-paper pl-2" : ""}`}
            >
              <span className="min-w-0">
                <b>{c.name}</b> {c.words}
                <span className="block text-ink-2">
                  {t`up to notch ${c.ceiling}, ${
                    c.days.length === 7
                      ? t`every day`
                      : c.days.map((d) => weekdays[d]).join(" ") || t`no fixed day`
                  }`}
                </span>
              </span>
              <span className="shrink-0 font-semibold">{news}</span>
            </li>
          );
        })}
      </ul>
    </section>
  );
}
