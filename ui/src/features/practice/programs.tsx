import { t } from "@lingui/core/macro";
import { useState } from "react";
import * as z from "zod/mini";
import { api, need, type Schema } from "../../api/client";
import { moment } from "../../parts/dates";
import { Field } from "../../parts/field";
import { Chosen, Listed, needed, useChecked } from "../../parts/form";
import { Title } from "../../parts/marks";
import { DoOrLeave } from "../../parts/orleave";
import { SaveState } from "../../parts/states";
import { CopyBox } from "./once";
import { itself, type Own, useOwnChange } from "./useown";

const rules = z.object({
  name: needed(t`Say which program it is for`),
  scope: z.enum(["read", "write"]),
  days: z.string(),
  old: z.string(),
});

const scopes = { read: t`looks`, write: t`works as a coach` };

/** Keys by which programs come in: what they may, until when, last used. */
export function Programs({ own, looks }: { own: Own; looks: boolean }) {
  const [making, setMaking] = useState(false);
  const [made, setMade] = useState<string>();
  const drop = useOwnChange(
    (key: string) => need(api.DELETE("/api/me/keys/{key}", { params: { path: { key } } })),
    itself,
  );
  return (
    <section aria-label={t`Programs`}>
      <Title>{t`Programs`}</Title>
      <p className="mb-3 text-ink-2">
        {t`A key lets a program of yours in without your password: a table of the club, a backup of your own. It never does what owners decide.`}
      </p>
      {made && (
        <div className="mb-3 border-l-4 border-ink bg-paper p-4">
          <p className="mb-2">{t`This is the key. It is shown this once; whoever has it comes in as you.`}</p>
          <CopyBox label={t`The key`} value={made} />
          <p className="my-2 text-[14px] text-ink-2">
            {t`The program sends it with every request:`} <code>{t`Authorization: Bearer …`}</code>
          </p>
          <button type="button" className="btn-quiet" onClick={() => setMade(undefined)}>
            {t`Done`}
          </button>
        </div>
      )}
      <KeyList keys={own.keys} back={(k) => drop.mutate(k.id)} />
      <SaveState error={drop.error} saving={false} />
      {making ? (
        <Make
          email={own.email}
          looks={looks}
          stay={() => setMaking(false)}
          done={(k) => {
            setMade(k);
            setMaking(false);
          }}
        />
      ) : (
        <button type="button" className="btn mt-3" onClick={() => setMaking(true)}>
          {t`Make a key`}
        </button>
      )}
    </section>
  );
}

/** Keys with what they may; each can be taken back. */
export function KeyList({ keys, back }: { keys: Schema["Key"][]; back: (k: Schema["Key"]) => void }) {
  return (
    <ul>
      {keys.map((k) => (
        <li key={k.id} className="flex flex-wrap items-center gap-x-4 border-b border-rule py-2">
          <span className="mr-auto [overflow-wrap:anywhere]">
            <b>{k.name}</b>
            {`, ${scopes[k.scope]}`}
            <span className="block text-[14px] text-ink-2">
              {[t`until ${moment(k.until)}`, k.used ? t`last used ${moment(k.used)}` : t`never used`].join(
                " · ",
              )}
            </span>
          </span>
          <button
            type="button"
            className="btn-quiet"
            aria-label={t`Take back the key for ${k.name}`}
            onClick={() => back(k)}
          >
            {t`Take back`}
          </button>
        </li>
      ))}
    </ul>
  );
}

function Make({
  email,
  looks,
  stay,
  done,
}: {
  email: string;
  looks: boolean;
  stay: () => void;
  done: (key: string) => void;
}) {
  const f = useChecked(rules, { name: "", scope: "read", days: "90", old: "" });
  const go = useOwnChange(
    (v: z.output<typeof rules>) => need(api.POST("/api/me/keys", { body: { ...v, days: Number(v.days) } })),
    (m) => m.own,
    (m) => done(m.key),
    f.refused,
  );
  return (
    <form noValidate className="mt-3 grid gap-3" onSubmit={f.form.handleSubmit((v) => go.mutate(v))}>
      <input type="text" hidden readOnly autoComplete="username" value={email} />
      <Field
        autoComplete="off"
        label={t`Which program it is for`}
        maxLength={60}
        autoFocus
        {...f.text("name")}
      />
      {!looks && (
        <Chosen
          label={t`It`}
          options={[
            { value: "read", label: scopes.read },
            { value: "write", label: scopes.write },
          ]}
          control={f.form.control}
          name="scope"
        />
      )}
      <Listed
        label={t`Holds for`}
        options={[
          ["7", t`a week`],
          ["30", t`30 days`],
          ["90", t`90 days`],
          ["365", t`a year`],
        ]}
        control={f.form.control}
        name="days"
      />
      <Field label={t`Your password`} type="password" autoComplete="current-password" {...f.text("old")} />
      <DoOrLeave busy={go.isPending} error={go.error} leave={stay}>
        {t`Make the key`}
      </DoOrLeave>
    </form>
  );
}
