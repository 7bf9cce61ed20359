import { t } from "@lingui/core/macro";
import { Link } from "react-router";
import { dayMonth, dayYear } from "../../parts/dates";
import { Title } from "../../parts/marks";
import type { View } from "./hooks";

export function Gates({ v }: { v: View }) {
  return (
    <section aria-label={t`Gates`} className="mb-6">
      <Title aside={t`tests and days open them, nothing else`}>{t`Gates`}</Title>
      {v.gates.map((g) => (
        <div
          key={g.gate}
          className="grid gap-x-5 gap-y-1 border-b border-rule py-2 md:grid-cols-[13rem_1fr_11rem]"
        >
          <p>
            <b>{g.name}</b>{" "}
            {g.open ? (
              <span className="text-pine">{g.state === "waived" ? t`waived` : t`open`}</span>
            ) : (
              <span className="text-clay">{t`▮ closed`}</span>
            )}
          </p>
          <p className="text-[14px]">
            {g.open
              ? g.until
                ? t`Its tests carry it until ${dayYear(g.until, v.today)}.`
                : (g.reason ?? "")
              : t`Needs ${g.missing.join("; ")}.`}
            {!g.open && g.ladders.length > 0 && (
              <span className="text-ink-2">{t` Works on it: ${g.ladders.map((l) => l.name).join(", ")}.`}</span>
            )}
          </p>
          <p className="text-[14px] md:text-right">
            {!g.open && (g.earliest ? t`not before ${dayYear(g.earliest, v.today)}` : t`no date known`)}
          </p>
        </div>
      ))}
    </section>
  );
}

export function Schools({ v }: { v: View }) {
  return (
    <section aria-label={t`Schools`}>
      <Title
        aside={
          <Link className="btn-quiet" to="/shelf/schools">
            {t`Change`}
          </Link>
        }
      >
        {t`Schools`}
      </Title>
      {v.schools.map((s) => (
        <div key={s.position} className="border-b border-rule py-2">
          <p>
            <b>{s.name}</b> {s.mine && <span className="text-pine">{t`in use`}</span>}
          </p>
          <p className="text-[14px]">{s.words}.</p>
          <p className="text-[14px] text-ink-2">{t`Open: ${s.open.length > 0 ? s.open.join(", ") : t`none`}.`}</p>
        </div>
      ))}
    </section>
  );
}

export function Moves({ v }: { v: View }) {
  if (v.moves.length === 0) return null;
  const date = (d: string | undefined) => (d ? dayYear(d, v.today) : t`no date`);
  return (
    <section aria-label={t`Dates so far`}>
      <Title aside={t`newest first`}>{t`How the date has changed`}</Title>
      <ul>
        {v.moves.map((m, i) => (
          <li key={`${m.on}${m.why}${m.to}`} className="border-b border-rule py-2">
            <b>{i === v.moves.length - 1 && !m.from ? date(m.to) : `${date(m.from)} → ${date(m.to)}`}</b>{" "}
            <span className="text-[14px] text-ink-2">{t`on ${dayMonth(m.on)}: ${m.why}`}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}
