import { t } from "@lingui/core/macro";
import { useEffect, useRef, useState } from "react";
import { plusDays, weekDay } from "../../parts/dates";
import { Field } from "../../parts/field";
import { Tick } from "../../parts/tick";
import { type Block, type Change, useChange } from "./change";
import { ChangeError, Outlook, useLook } from "./outlook";
import type { Move } from "./weeks";

/** What a move does, before it is done: once, every week, or with a reason. */
export function MovePanel({ b, m, done }: { b: Block; m: Move; done: () => void }) {
  const once: Change = { kind: "move", session: m.kind, routine: m.routine, from: m.from, to: m.to };
  const sameWeek = monday(m.from) === monday(m.to);
  const [always, setAlways] = useState(false);
  const change = useChange(b);
  const { look, error } = useLook(b, change.isIdle || change.isError ? { ...once, always } : null);
  const [reason, setReason] = useState("");
  const first = useRef<HTMLButtonElement>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: each new move takes the focus
  useEffect(() => first.current?.focus(), [m]);
  const broken = look?.broken ?? [];
  // Sent before the look is back, the server looks itself and refuses what breaks a rule.
  const save = () =>
    change.mutate({ ...once, always, reason: broken.length ? reason : undefined }, { onSuccess: done });
  return (
    <form
      aria-label={t`Move a session`}
      className="mb-6 border-l-4 border-ink bg-paper p-4"
      onSubmit={(e) => {
        e.preventDefault();
        save();
      }}
    >
      <h2>
        {m.name}: {weekDay(m.from)} → {weekDay(m.to)}
      </h2>
      <Outlook look={look} error={error} />
      {sameWeek && (
        <Tick
          className="mt-2 flex min-h-8 items-center gap-2"
          label={t`every week from now on`}
          on={always}
          onChange={setAlways}
        />
      )}
      {broken.length > 0 && (
        <Field
          label={t`Do it anyway. Reason:`}
          className="mt-2"
          value={reason}
          maxLength={300}
          onChange={(e) => setReason(e.target.value)}
        />
      )}
      <div className="mt-3 flex gap-3">
        <button
          ref={first}
          type="submit"
          className="btn btn-main"
          disabled={change.isPending || (broken.length > 0 && !reason.trim())}
        >
          {broken.length > 0 ? t`Insist` : t`Move it`}
        </button>
        <button type="button" className="btn" onClick={done}>
          {t`Leave it`}
        </button>
      </div>
      <ChangeError error={change.error} saving={change.isPending} />
    </form>
  );
}

const monday = (iso: string) => {
  const d = new Date(`${iso}T00:00:00Z`);
  return plusDays(iso, -((d.getUTCDay() + 6) % 7));
};
