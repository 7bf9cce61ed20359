import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, need, Problem } from "../../api/client";
import { useBlockChange } from "../../api/hooks";
import { dayMonth, plusDays } from "../../parts/dates";
import { Choice, painScale } from "../../parts/field";
import { Title } from "../../parts/marks";
import { SaveState } from "../../parts/states";
import { Tick } from "../../parts/tick";
import { Why } from "../../parts/why";
import type { Block } from "./block";
import { useChange } from "./change";

/** What limits every session now, and the quiet holds a flare still allows. */
export function Caps({ b }: { b: Block }) {
  const add = useChange(b);
  if (b.caps.length === 0 && !b.newEngine) return null;
  return (
    <div role="status" className="mb-5 border-l-4 border-ink bg-paper p-4">
      {b.caps.map((c) => (
        <p key={c}>{c}</p>
      ))}
      {b.newEngine && (
        <p>
          <Trans>
            The engine changed; until the owner has looked, every step up waits for a coach.{" "}
            <Link className="btn-quiet" to="/engine">
              What it decides differently
            </Link>
          </Trans>
        </p>
      )}
      {b.quietHolds && (
        <button
          type="button"
          className="btn mt-2"
          disabled={add.isPending}
          onClick={() =>
            add.mutate({
              kind: "add",
              ladder: "calm-iso",
              days: [0, 2, 4],
              reason: t`quiet holds through the flare`,
            })
          }
        >
          {t`Add quiet holds, two legs`}
        </button>
      )}
      <SaveState error={add.error} saving={add.isPending} />
    </div>
  );
}

/** Whether Steps up apply by themselves for this runner. */
export function Auto({ b }: { b: Block }) {
  const qc = useQueryClient();
  const put = useMutation({
    mutationFn: (on: boolean) =>
      need(
        api.PUT("/api/runners/{id}/auto-progress", { params: { path: { id: b.runnerId } }, body: { on } }),
      ),
    onSuccess: () => void qc.invalidateQueries({ queryKey: ["block", b.runnerId] }),
  });
  return (
    <>
      <Tick
        className="mt-3 flex min-h-10 items-center gap-2"
        label={t`Steps up apply by themselves`}
        on={b.autoProgress}
        disabled={put.isPending}
        onChange={(on) => put.mutate(on)}
      />
      <SaveState error={put.error} saving={put.isPending} />
    </>
  );
}

/** Moves and edits by hand, and what was left out. */
export function Changed({ b }: { b: Block }) {
  const out = b.prescriptions.filter((p) => p.leftOut);
  if (b.changes.length === 0 && out.length === 0) return null;
  return (
    <section aria-label={t`Changed by hand`} className="mt-6">
      <Title>{t`Changed by hand`}</Title>
      <ul>
        {b.changes.map((c) => (
          <li key={`${c.on}${c.text}${c.reason}`} className="border-b border-rule py-1.5 text-[14px]">
            <span className="text-ink-2">{dayMonth(c.on)}</span> {c.text}
            {c.reason && <span className="text-ink-2">: {c.reason}</span>}
          </li>
        ))}
      </ul>
    </section>
  );
}

export function FlagList({ b }: { b: Block }) {
  const flags = b.flags.filter((f) => f.flag !== "F-OPEN"); // those ask at the top
  if (flags.length === 0) return null;
  // One line for what is said of both sides since the same day.
  const lines = new Map<string, { text: string; since: string; sides: Set<string> }>();
  for (const f of flags) {
    const key = f.text + f.since;
    const line = lines.get(key) ?? { text: f.text, since: f.since, sides: new Set() };
    line.sides.add(f.side || "both");
    lines.set(key, line);
  }
  return (
    <div role="alert" className="mb-5 border-l-4 border-clay bg-clay-wash p-4">
      {[...lines.values()].map((l) => (
        <p key={l.text + l.since}>
          <b>▲ {l.text}</b>{" "}
          <span>
            {t`Since ${dayMonth(l.since)}, ${(l.sides.size === 1 && !l.sides.has("both") ? [...l.sides][0] : t`both sides`) ?? ""}.`}
          </span>
        </p>
      ))}
    </div>
  );
}

export function Mornings({ b }: { b: Block }) {
  const days = Array.from({ length: 10 }, (_, i) => plusDays(b.today, i - 9));
  const known = new Map(b.mornings.map((m) => [m.on, m]));
  const [on, setOn] = useState(b.today);
  const put = useBlockChange((body: { firstStep: number; reason?: string }) =>
    need(api.PUT("/api/runners/{id}/mornings/{on}", { params: { path: { id: b.runnerId, on } }, body })),
  );
  const fields = put.error instanceof Problem ? put.error.fields : {};
  const usual = t`usual ${b.baseline}`;
  return (
    <section aria-label={t`First steps of the morning`} className="mb-6">
      <Title aside={usual}>{t`First steps`}</Title>
      <ul className="mb-3 grid h-24 grid-cols-10 items-end gap-0.5">
        {days.map((d) => {
          const m = known.get(d);
          const v = m?.firstStep;
          return (
            <li key={d} className="h-full">
              <button
                type="button"
                onClick={() => setOn(d)}
                aria-pressed={on === d}
                aria-label={`${dayMonth(d)}: ${v === undefined ? t`not known` : t`pain ${v}`}`}
                className={`flex h-full w-full flex-col items-center justify-end border-b-2 text-[12px] ${on === d ? "border-ink bg-paper" : "border-rule"}`}
              >
                <span>{v ?? "–"}</span>
                <svg
                  viewBox="0 0 10 60"
                  className="h-14 w-full"
                  preserveAspectRatio="none"
                  aria-hidden="true"
                >
                  <rect
                    x="1"
                    width="8"
                    y={60 - 6 * (v ?? 0)}
                    height={6 * (v ?? 0)}
                    fill={m?.jumped ? "var(--clay)" : "var(--edge)"}
                  />
                </svg>
              </button>
            </li>
          );
        })}
      </ul>
      <Choice
        label={t`Pain on ${dayMonth(on)}`}
        compact
        options={painScale}
        value={known.get(on)?.firstStep}
        onChange={(firstStep) => put.mutate({ firstStep })}
      />
      {fields.reason && put.variables && (
        <Why
          say={fields.reason}
          onSay={(reason) => put.variables && put.mutate({ ...put.variables, reason })}
          onLeave={() => put.reset()}
        />
      )}
      <SaveState error={fields.reason ? null : put.error} saving={put.isPending} />
    </section>
  );
}

export function Gates({ b }: { b: Block }) {
  const usedGates = new Set(b.prescriptions.flatMap((p) => p.notches.map((n) => n.gate)));
  return (
    <section aria-label={t`Gates`}>
      <Title>{t`Gates`}</Title>
      <ul>
        {b.gates
          .filter((g) => g.open || usedGates.has(g.gate))
          .map((g) => (
            <li key={g.gate} className="border-b border-rule py-1.5 text-[14px]">
              <b>{g.name}</b> <span className={g.open ? "text-pine" : ""}>{g.state}</span>
              {!g.open && <span className="block text-ink-2">{t`needs ${g.missing.join("; ")}`}</span>}
            </li>
          ))}
      </ul>
    </section>
  );
}
