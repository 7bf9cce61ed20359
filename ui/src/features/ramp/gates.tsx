import { Link } from "react-router";
import { dayMonth, dayYear } from "../../parts/dates";
import { Title } from "../../parts/marks";
import type { View } from "./hooks";

export function Gates({ v }: { v: View }) {
  return (
    <section aria-label="Gates" className="mb-6">
      <Title aside="tests and days open them, nothing else">Gates</Title>
      {v.gates.map((g) => (
        <div
          key={g.gate}
          className="grid gap-x-5 gap-y-1 border-b border-rule py-2 md:grid-cols-[13rem_1fr_11rem]"
        >
          <p>
            <b>{g.name}</b>{" "}
            {g.open ? (
              <span className="text-pine">{g.state === "waived" ? "waived" : "open"}</span>
            ) : (
              <span className="text-clay">▮ closed</span>
            )}
          </p>
          <p className="text-[14px]">
            {g.open
              ? g.until
                ? `Its tests carry it until ${dayYear(g.until, v.today)}.`
                : (g.reason ?? "")
              : `Needs ${g.missing.join("; ")}.`}
            {!g.open && g.ladders.length > 0 && (
              <span className="text-ink-2"> Works on it: {g.ladders.map((l) => l.name).join(", ")}.</span>
            )}
          </p>
          <p className="text-[14px] md:text-right">
            {!g.open && (g.earliest ? `not before ${dayYear(g.earliest, v.today)}` : "no date known")}
          </p>
        </div>
      ))}
    </section>
  );
}

export function Schools({ v }: { v: View }) {
  return (
    <section aria-label="Schools">
      <Title
        aside={
          <Link className="btn-quiet" to="/shelf/schools">
            Change
          </Link>
        }
      >
        Schools
      </Title>
      {v.schools.map((s) => (
        <div key={s.position} className="border-b border-rule py-2">
          <p>
            <b>{s.name}</b> {s.mine && <span className="text-pine">in use</span>}
          </p>
          <p className="text-[14px]">{s.words}.</p>
          <p className="text-[14px] text-ink-2">Open: {s.open.length > 0 ? s.open.join(", ") : "none"}.</p>
        </div>
      ))}
    </section>
  );
}

export function Moves({ v }: { v: View }) {
  if (v.moves.length === 0) return null;
  const date = (d: string | undefined) => (d ? dayYear(d, v.today) : "no date");
  return (
    <section aria-label="Dates so far">
      <Title aside="newest first">How the date has changed</Title>
      <ul>
        {v.moves.map((m, i) => (
          <li key={`${m.on}${m.why}${m.to}`} className="border-b border-rule py-2">
            <b>{i === v.moves.length - 1 && !m.from ? date(m.to) : `${date(m.from)} → ${date(m.to)}`}</b>{" "}
            <span className="text-[14px] text-ink-2">
              on {dayMonth(m.on)}: {m.why}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
