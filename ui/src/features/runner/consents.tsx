import { t } from "@lingui/core/macro";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, need, type Schema } from "../../api/client";
import { useMe } from "../../api/hooks";
import { dayMonth } from "../../parts/dates";
import { Field, Select } from "../../parts/field";
import { Title } from "../../parts/marks";
import { SaveState } from "../../parts/states";

type Consent = Schema["Consent"];

const whats: Record<Consent["what"], string> = {
  records: t`records are kept`,
  clips: t`clips and photos`,
  phone: t`the phone`,
  sharing: t`results shown to others`,
};
const hows: Record<Consent["how"], string> = {
  paper: t`on paper`,
  spoken: t`spoken`,
  phone: t`on the phone`,
  mail: t`by mail`,
};
const pairs = <K extends string>(of: Record<K, string>) => Object.entries(of) as [K, string][];

/** What was agreed to, by whom, when, and when it was taken back. */
export function Consents({ id, may }: { id: string; may: boolean }) {
  const key = ["consents", id];
  const qc = useQueryClient();
  const me = useMe();
  const list = useQuery({
    queryKey: key,
    queryFn: () => need(api.GET("/api/runners/{id}/consents", { params: { path: { id } } })),
  });
  const [open, setOpen] = useState(false);
  const end = useMutation({
    mutationFn: (consent: string) =>
      need(api.DELETE("/api/runners/{id}/consents/{consent}", { params: { path: { id, consent } } })),
    onSuccess: (l) => qc.setQueryData(key, l),
  });
  const items = list.data?.items ?? [];
  return (
    <section aria-label={t`Agreed to`}>
      <Title>{t`Agreed to`}</Title>
      {items.length === 0 ? (
        <p className="mb-2 text-ink-2">{t`Nothing written down yet.`}</p>
      ) : (
        <ul className="mb-2">
          {items.map((c) => (
            <li key={c.id} className="flex flex-wrap items-baseline gap-x-3 border-b border-rule py-2">
              <span className="mr-auto">
                <span className={c.ended ? "line-through" : "font-semibold"}>{whats[c.what]}</span>
                <span className="block text-[14px] text-ink-2">
                  {t`${dayMonth(c.on)}, ${hows[c.how]}`}
                  {c.givenBy === "guardian" && t`, by ${c.name}`}
                  {c.ended && t`; taken back ${dayMonth(c.ended)}`}
                </span>
              </span>
              {may && !c.ended && (
                <button
                  type="button"
                  className="btn-quiet"
                  aria-label={t`Taken back: ${whats[c.what]}`}
                  onClick={() => end.mutate(c.id ?? "")}
                >
                  {t`Taken back`}
                </button>
              )}
            </li>
          ))}
        </ul>
      )}
      <SaveState error={end.error} saving={false} />
      {may &&
        (open ? (
          <Add id={id} today={me.data?.today ?? ""} done={() => setOpen(false)} />
        ) : (
          <button type="button" className="btn" onClick={() => setOpen(true)}>
            {t`Write one down`}
          </button>
        ))}
    </section>
  );
}

function Add({ id, today, done }: { id: string; today: string; done: () => void }) {
  const qc = useQueryClient();
  const [c, setC] = useState<Consent>({
    what: "records",
    givenBy: "runner",
    name: "",
    how: "paper",
    on: today,
  });
  const save = useMutation({
    mutationFn: () => need(api.POST("/api/runners/{id}/consents", { params: { path: { id } }, body: c })),
    retry: false,
    onSuccess: (l) => {
      qc.setQueryData(["consents", id], l);
      done();
    },
  });
  const pick = <K extends keyof Consent>(k: K) => ({
    value: c[k] as string,
    onChange: (v: string) => setC((x) => ({ ...x, [k]: v })),
  });
  return (
    <form
      className="grid gap-3"
      onSubmit={(e) => {
        e.preventDefault();
        save.mutate();
      }}
    >
      <Select label={t`To what`} options={pairs(whats)} {...pick("what")} />
      <Select
        label={t`By`}
        options={[
          ["runner", t`the runner`],
          ["guardian", t`who stands for the runner`],
        ]}
        {...pick("givenBy")}
      />
      {c.givenBy === "guardian" && (
        <Field
          label={t`Name of who agreed`}
          maxLength={120}
          value={c.name}
          onChange={(e) => setC((x) => ({ ...x, name: e.target.value }))}
        />
      )}
      <Select label={t`How`} options={pairs(hows)} {...pick("how")} />
      <Field
        label={t`On`}
        type="date"
        max={today}
        value={c.on}
        onChange={(e) => setC((x) => ({ ...x, on: e.target.value }))}
      />
      <SaveState error={save.error} saving={save.isPending} />
      <div className="flex gap-3">
        <button type="submit" className="btn" disabled={save.isPending}>
          {t`Save`}
        </button>
        <button type="button" className="btn-quiet" onClick={done}>
          {t`Leave it`}
        </button>
      </div>
    </form>
  );
}
