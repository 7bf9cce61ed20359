import { t } from "@lingui/core/macro";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, need, type Schema } from "../../api/client";
import { useKeepBlock } from "../../api/hooks";
import { weekDay } from "../../parts/dates";
import { Choice, Field, painScale } from "../../parts/field";
import { SideName, Title } from "../../parts/marks";
import { Failed, SaveState } from "../../parts/states";
import { said } from "./seen";

type Block = Schema["Block"];
type Session = Schema["LoggedSession"];

/** Sessions of the last weeks, to put right or take back with a reason. */
export function Logged({ b }: { b: Block }) {
  const list = useQuery({
    queryKey: ["sessions", b.id, b.decisions.length],
    queryFn: () => need(api.GET("/api/blocks/{id}/session-logs", { params: { path: { id: b.id } } })),
  });
  const [open, setOpen] = useState("");
  if (list.error) return <Failed error={list.error} retry={() => void list.refetch()} />;
  const items = list.data?.items ?? [];
  if (items.length === 0) return null;
  return (
    <section aria-label={t`Logged sessions`} className="mt-8">
      <Title aside={t`the last four weeks; both stay in the journal`}>{t`Logged sessions`}</Title>
      <ul>
        {items.map((s) => (
          <li key={s.id} className="border-b border-rule py-1.5">
            <p className="flex flex-wrap items-baseline gap-x-4">
              <b>{weekDay(s.on)}</b>
              <span className="text-[14px] text-ink-2">
                {s.name ? <b>{s.name}</b> : [...new Set(s.items.map((i) => i.name))].join(", ")}
                {s.compared?.map((c) => t` · ${c.side} ${c.before} → ${c.after} cm`).join("")}
                {s.felt && t` · felt in the ${s.felt}`}
                {s.litmus && t` · after it ${s.litmus}`}
              </span>
              {s.reason && <span className="text-[14px]">{t`put right: ${s.reason}`}</span>}
              <button
                type="button"
                className="btn-quiet ml-auto"
                aria-expanded={open === s.id}
                onClick={() => setOpen(open === s.id ? "" : s.id)}
              >
                {t`Put right or take back`}
              </button>
            </p>
            {open === s.id && <Correct b={b} s={s} done={() => setOpen("")} />}
          </li>
        ))}
      </ul>
    </section>
  );
}

function Correct({ b, s, done }: { b: Block; s: Session; done: () => void }) {
  const keep = useKeepBlock();
  const qc = useQueryClient();
  const [items, setItems] = useState(s.items);
  const [reason, setReason] = useState("");
  const send = useMutation({
    mutationFn: (back: boolean) =>
      need(
        api.POST("/api/blocks/{id}/session-logs/{log}/correct", {
          params: { path: { id: b.id, log: s.id } },
          body: {
            reason,
            session: back
              ? undefined
              : {
                  on: s.on,
                  note: s.note,
                  litmus: s.litmus as "better" | "same" | "worse" | undefined,
                  routine: s.routine,
                  compared: s.compared,
                  felt: s.felt,
                  items: items.map(({ name: _, words: __, ...x }) => x),
                },
          },
        }),
      ),
    onSuccess: (next) => {
      keep(next);
      void qc.invalidateQueries({ queryKey: ["sessions", b.id] });
      done();
    },
  });
  const change = (i: number, part: Partial<(typeof items)[number]>) =>
    setItems(items.map((x, k) => (k === i ? { ...x, ...part } : x)));
  return (
    <form
      aria-label={t`Session of ${weekDay(s.on)}`}
      className="mt-2 border-l-4 border-ink bg-paper p-3"
      onSubmit={(e) => {
        e.preventDefault();
        send.mutate(false);
      }}
    >
      {items.map((x, i) => (
        <div
          key={`${x.prescriptionId}${x.side}`}
          className="flex flex-wrap items-start gap-x-5 gap-y-1 border-b border-rule py-1.5"
        >
          <p className="w-52 text-[14px]">
            <b>{x.name}</b>, <SideName side={x.side} />
            <span className="block text-ink-2">{x.words}</span>
          </p>
          <Choice
            label={t`Worst pain during`}
            compact
            options={painScale}
            value={x.pain}
            onChange={(pain) => change(i, { pain })}
          />
          <Choice
            label={t`Done`}
            compact
            options={said(b.choices.done)}
            value={x.done}
            onChange={(v) => change(i, { done: v })}
          />
        </div>
      ))}
      <div className="mt-3 flex flex-wrap items-end gap-3">
        <Field
          label={t`Why`}
          className="w-full max-w-md"
          maxLength={500}
          value={reason}
          onChange={(e) => setReason(e.target.value)}
        />
        <button type="submit" className="btn btn-main" disabled={!reason.trim() || send.isPending}>
          {t`Put it right`}
        </button>
        <button
          type="button"
          className="btn"
          disabled={!reason.trim() || send.isPending}
          onClick={() => send.mutate(true)}
        >
          {t`Take it back`}
        </button>
        <button type="button" className="btn-quiet" onClick={done}>
          {t`Leave it`}
        </button>
        <SaveState error={send.error} saving={send.isPending} />
      </div>
    </form>
  );
}
