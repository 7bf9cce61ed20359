import { t } from "@lingui/core/macro";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, need, type Schema } from "../../api/client";
import { dayMonth } from "../../parts/dates";
import { Field } from "../../parts/field";
import { Title } from "../../parts/marks";
import { sourceText } from "../../parts/source";
import { SaveState } from "../../parts/states";
import { Findings } from "./findings";

type Screening = Schema["Screening"];
type Finding = Schema["ScreeningFinding"];

/** The findings with the coach's say, and the board of gates. */
export function Outcome({ s }: { s: Screening; tests: Schema["ScreeningTest"][] }) {
  return (
    <>
      {s.unasked.length > 0 && (
        <p className="mb-4 border-l-4 border-clay bg-clay-wash p-3">
          {t`▲ Safety questions without an answer: ${s.unasked.join(", ")}. Until they are asked the careful reading counts.`}
        </p>
      )}
      <Findings findings={s.findings} choose={(f) => <ChooseFinding key={f.factor} f={f} s={s} />} />
      <section aria-label={t`Gates`} className="mt-6">
        <Title
          aside={
            <Link className="btn-quiet" to={`/screenings/${s.id}/sheet`}>
              {t`Result sheet for the runner`}
            </Link>
          }
        >
          {t`Gates`}
        </Title>
        <ul className="grid gap-x-8 md:grid-cols-2">
          {s.gates.map((g) => (
            <GateLine key={g.gate} g={g} s={s} />
          ))}
        </ul>
      </section>
    </>
  );
}

function ChooseFinding({ f, s }: { f: Finding; s: Screening }) {
  const qc = useQueryClient();
  const key = `${f.factor}/${f.name}`;
  const chosen = s.choices.find((c) => c.key === key);
  const [open, setOpen] = useState<"" | "demote" | "remark">("");
  const [text, setText] = useState("");
  const save = useMutation({
    mutationFn: (c: Partial<Schema["ScreeningChoice"]>) =>
      need(
        api.PUT("/api/screenings/{id}/choices", {
          params: { path: { id: s.id }, query: { rev: s.revisions.choices ?? 0 } },
          body: { ...chosen, ...c, key },
        }),
      ),
    onSuccess: (next) => {
      qc.setQueryData(["screening", s.id], next);
      setOpen("");
      setText("");
    },
  });
  const act = (label: string, fn: () => void) => (
    <button type="button" className="btn-quiet text-[14px]" aria-label={`${label}: ${f.name}`} onClick={fn}>
      {label}
    </button>
  );
  return (
    <>
      {chosen?.move
        ? act(t`as computed`, () => save.mutate({ move: "" as never, reason: "" }))
        : act("promote", () => save.mutate({ move: "promote" }))}
      {!chosen?.move && act(t`let it wait`, () => setOpen("demote"))}
      {act("remark", () => {
        setText(f.remark ?? "");
        setOpen("remark");
      })}
      {open && (
        <form
          className="flex w-full items-end gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            save.mutate(open === "demote" ? { move: "demote", reason: text } : { remark: text });
          }}
        >
          <Field
            label={open === "demote" ? t`Why it waits` : t`Remark`}
            className="grow"
            value={text}
            onChange={(e) => setText(e.target.value)}
          />
          <button
            type="submit"
            className="btn"
            disabled={save.isPending || (open === "demote" && !text.trim())}
          >
            {t`Keep`}
          </button>
        </form>
      )}
      <SaveState error={save.error} saving={false} />
    </>
  );
}

function GateLine({ g, s }: { g: Schema["SafetyGateState"]; s: Screening }) {
  const qc = useQueryClient();
  const [open, setOpen] = useState(false);
  const [reason, setReason] = useState("");
  const barred = s.cantWaive[g.gate];
  const save = useMutation({
    mutationFn: (why: string) =>
      need(
        api.PUT("/api/screenings/{id}/waivers", {
          params: { path: { id: s.id }, query: { rev: s.revisions.waivers ?? 0 } },
          body: { gate: g.gate, reason: why },
        }),
      ),
    onSuccess: (next) => {
      qc.setQueryData(["screening", s.id], next);
      setOpen(false);
    },
  });
  return (
    <li className="border-b border-rule py-2 text-[14px]">
      <p className="flex flex-wrap items-baseline gap-x-3">
        <GateMark state={g.state} />
        <b className="text-[15px]">{g.name}</b>
        <span className={g.open ? "font-semibold text-pine" : ""}>
          {g.state}
          {g.until && t` until ${dayMonth(g.until)}`}
        </span>
        {g.state === "waived" && (
          <button type="button" className="btn-quiet" onClick={() => save.mutate("")}>
            {t`Take the waiver back`}
          </button>
        )}
        {g.state === "closed" && !barred && (
          <button
            type="button"
            className="btn-quiet"
            aria-label={t`waive: ${g.name}`}
            onClick={() => setOpen(!open)}
          >
            {t`Waive`}
          </button>
        )}
      </p>
      {g.reason && <p>{t`waived: ${g.reason}`}</p>}
      {!g.open && (
        <p className="text-ink-2">
          {t`needs ${g.missing.join("; ")}${g.ladder ? t`. Works on it: ${g.ladder}` : ""}`}
        </p>
      )}
      {!g.open && barred && <p className="text-ink-2">{t`Can't be waived: ${barred}.`}</p>}
      <p className="sr-only">{sourceText(g.source)}</p>
      {open && (
        <form
          className="mt-1 flex items-end gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            save.mutate(reason);
          }}
        >
          <Field label={t`Why`} className="grow" value={reason} onChange={(e) => setReason(e.target.value)} />
          <button type="submit" className="btn" disabled={!reason.trim() || save.isPending}>
            {t`Waive`}
          </button>
        </form>
      )}
      <SaveState error={save.error} saving={false} />
    </li>
  );
}

/** A gate's own mark: a bar across, raised when open, half when waived. */
function GateMark({ state }: { state: string }) {
  const up = state === "closed" ? 0 : state === "waived" ? -22 : -48;
  return (
    <svg width="26" height="18" viewBox="0 0 26 18" aria-hidden="true" className="self-center">
      <path d="M3 2v15" stroke="var(--ink)" strokeWidth="3" />
      <path d="M3 12h21" stroke="var(--ink)" strokeWidth="3" transform={`rotate(${up} 3 12)`} />
    </svg>
  );
}
