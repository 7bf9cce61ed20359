import { plural, t } from "@lingui/core/macro";
import { useEffect, useState } from "react";
import { dayMonth } from "../../parts/dates";
import { distance } from "../../parts/measures";
import { sideName } from "../../parts/sidename";
import { Main } from "./kit";
import { readNotes } from "./link";
import { addDays } from "./rules";
import type { Ready } from "./usepocket";

/** Own rails, mornings, kilometres, what moved and why; no score. */
export function How({ p }: { p: Ready }) {
  const { plan } = p;
  const days = Array.from({ length: 14 }, (_, i) => addDays(p.today, i - 13));
  return (
    <div className="grid gap-6">
      <section>
        <h2>{t`Where you stand`}</h2>
        {plan.rails.map((r) => (
          <div key={r.name} className="border-b border-rule py-2.5">
            <p className="font-semibold">{r.name}</p>
            {r.pegs.map((g) => (
              <p key={g.side} className="mt-1 flex items-center gap-2 text-[15px]">
                <span className="w-10 text-ink-2">{sideName(g.side)}</span>
                <span
                  className="flex flex-1 gap-[3px]"
                  role="img"
                  aria-label={t`${sideName(g.side)}: notch ${g.notch} of ${r.notches}${g.stopped ? t`, rests` : ""}`}
                >
                  {Array.from({ length: r.notches }, (_, i) => (
                    <i
                      // biome-ignore lint/suspicious/noArrayIndexKey: notches have no other name
                      key={i}
                      className={`h-3 flex-1 border-[1.5px] border-ink ${i + 1 < g.notch ? "bg-ink" : i + 1 === g.notch ? (g.stopped ? "bg-clay" : "bg-pine") : ""}`}
                    />
                  ))}
                </span>
              </p>
            ))}
            <p className="mt-1 text-[15px]">{r.words}</p>
            {r.last && <p className="text-[15px] text-ink-2">{r.last}</p>}
          </div>
        ))}
        {plan.rails.length === 0 && <p className="text-ink-2">{t`No block yet.`}</p>}
      </section>
      <section>
        <h2>{t`First steps, two weeks`}</h2>
        {plan.places.map((x) => (
          <div key={`${x.zone}${x.side}`} className="mt-2">
            <p className="text-[15px]">{t`${x.name}, usual ${Math.round(x.usual * 10) / 10}`}</p>
            <div
              className="flex h-16 items-end gap-[3px] border-b border-ink"
              role="img"
              aria-label={
                x.known.map((k) => `${dayMonth(k.on)}: ${k.firstStep}`).join(", ") || t`nothing told yet`
              }
            >
              {days.map((d) => {
                const k = x.known.find((y) => y.on === d);
                return (
                  <span key={d} className="flex-1 text-center text-[12px]">
                    {k ? k.firstStep : "·"}
                    <i className="block bg-ink" style={{ height: k ? `${k.firstStep * 4}px` : 0 }} />
                  </span>
                );
              })}
            </div>
          </div>
        ))}
      </section>
      <section>
        <h2>{t`Running`}</h2>
        {plan.weeks.map((w) => (
          <p key={w.monday} className="flex justify-between border-b border-rule py-1.5">
            <span>{t`week of ${dayMonth(w.monday)}`}</span>
            <span>
              {t`${distance(w.metres)} in ${w.runs} ${plural(w.runs, { one: "run", other: "runs" })}`}
            </span>
          </p>
        ))}
        <p className="mt-2">
          {plan.advice} <span className="text-ink-2">{plan.adviceWhy}</span>
        </p>
      </section>
      <section>
        <h2>{t`What moved, and why`}</h2>
        {plan.moved.map((m) => (
          <p key={m} className="border-b border-rule py-1.5">
            {m}
          </p>
        ))}
        {plan.moved.length === 0 && <p className="text-ink-2">{t`Nothing yet.`}</p>}
      </section>
      <Words p={p} />
    </div>
  );
}

/** Words with the coach: what they wrote is read when it is on show. */
function Words({ p }: { p: Ready }) {
  const [text, setText] = useState("");
  const newest = p.plan.notes.find((n) => !n.mine && !n.read)?.at;
  useEffect(() => {
    if (newest) void readNotes(newest).catch(() => {});
  }, [newest]);
  const mine = p.kept.filter(
    (k) => k.report.kind === "note" && !p.plan.notes.some((n) => n.text === k.report.note),
  );
  return (
    <section>
      <h2>{t`Words with your coach`}</h2>
      {mine.map((k) => (
        <p key={k.id} className="border-b border-rule py-2">
          {k.report.note}{" "}
          <span className="text-ink-2">· {k.told === "kept" ? t`kept here` : t`with your coach`}</span>
        </p>
      ))}
      {p.plan.notes.map((n) => (
        <p key={n.id} className="border-b border-rule py-2">
          <span className="text-[14px] text-ink-2">
            {n.mine ? t`You` : n.by || t`Your coach`}, {dayMonth(n.at.slice(0, 10))}
            {n.mine ? (n.read ? t` · read` : "") : ""}
          </span>
          <br />
          {n.text}
        </p>
      ))}
      <label className="mt-3 block">
        <span className="mb-1 block font-semibold">{t`Write a few words`}</span>
        <textarea
          className="field"
          rows={3}
          maxLength={1000}
          value={text}
          onChange={(e) => setText(e.target.value)}
        />
      </label>
      <Main
        disabled={!text.trim()}
        onClick={() =>
          void p.tell({ kind: "note", note: text.trim() }).then((ok) => {
            if (ok) setText("");
          })
        }
      >
        {t`Tell my coach`}
      </Main>
      <p className="mt-1 text-[15px] text-ink-2">{t`This is no emergency line; nobody watches it.`}</p>
    </section>
  );
}
