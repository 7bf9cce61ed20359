import { t } from "@lingui/core/macro";
import { useQuery } from "@tanstack/react-query";
import * as z from "zod/mini";
import { api, need } from "../../api/client";
import { useMe } from "../../api/hooks";
import { moment } from "../../parts/dates";
import { Field } from "../../parts/field";
import { Chosen, useChecked } from "../../parts/form";
import { Title } from "../../parts/marks";
import { Failed, Loading, SaveState } from "../../parts/states";
import { usePageTitle } from "../../parts/title";
import { PracticeHead } from "./head";
import { Programs } from "./programs";
import { Second } from "./second";
import { systems } from "./systems";
import { itself, type Own, ownKey, useOwnChange } from "./useown";

/** Somebody's own page: name, password, devices, programs. */
export function OwnView() {
  usePageTitle(t`My page`, t`Practice`);
  const me = useMe();
  const own = useQuery({ queryKey: ownKey, queryFn: () => need(api.GET("/api/me")) });
  if (own.isPending) return <Loading what={t`your page`} />;
  if (own.error) return <Failed error={own.error} retry={() => void own.refetch()} />;
  return (
    <>
      <PracticeHead />
      <h1 className="mb-4">{t`My page`}</h1>
      <div className="grid max-w-4xl gap-x-10 gap-y-8 md:grid-cols-2">
        <Profile own={own.data} />
        <Password email={own.data.email} />
        <Devices own={own.data} />
        <Second own={own.data} />
        <Programs own={own.data} looks={me.data?.role === "viewer"} />
      </div>
    </>
  );
}

const profile = z.object({
  name: z.string(),
  email: z.string(),
  units: z.enum(["", "metric", "imperial"]),
  old: z.string(),
});

function Profile({ own }: { own: Own }) {
  const f = useChecked(profile, { name: own.name, email: own.email, units: own.units, old: "" });
  const save = useOwnChange(
    (body: z.output<typeof profile>) => need(api.PUT("/api/me", { body })),
    itself,
    () => {
      if (f.form.getValues("units") !== own.units) location.reload(); // everything is written anew
      f.form.resetField("old");
    },
    f.refused,
  );
  const moved = f.form.watch("email").trim().toLowerCase() !== own.email.toLowerCase();
  return (
    <section aria-label={t`Name and address`}>
      <Title>{t`Name and address`}</Title>
      <form noValidate className="grid gap-3" onSubmit={f.form.handleSubmit((v) => save.mutate(v))}>
        <Field label={t`Your name`} autoComplete="name" maxLength={120} {...f.text("name")} />
        <Field
          label={t`E-mail`}
          hint={t`you sign in with it`}
          type="email"
          autoComplete="username"
          {...f.text("email")}
        />
        <Chosen
          label={t`Distances and weights`}
          options={[{ value: "", label: t`as the practice` }, ...systems]}
          control={f.form.control}
          name="units"
        />
        {moved && (
          <Field
            label={t`Your password`}
            hint={t`asked for because the address changes`}
            type="password"
            autoComplete="current-password"
            {...f.text("old")}
          />
        )}
        <div className="flex items-center gap-3">
          <button type="submit" className="btn" disabled={save.isPending}>
            {t`Save`}
          </button>
          <SaveState error={save.error} saving={false} />
          {save.isSuccess && <span role="status">{t`Saved.`}</span>}
        </div>
      </form>
    </section>
  );
}

const passwords = z.object({ old: z.string(), password: z.string() });

function Password({ email }: { email: string }) {
  const f = useChecked(passwords, { old: "", password: "" });
  const save = useOwnChange(
    (body: z.output<typeof passwords>) => need(api.PUT("/api/me/password", { body })),
    itself,
    () => f.form.reset(),
    f.refused,
  );
  return (
    <section aria-label={t`Password`}>
      <Title>{t`Password`}</Title>
      <form noValidate className="grid gap-3" onSubmit={f.form.handleSubmit((v) => save.mutate(v))}>
        {/* For whom a browser keeps the password. */}
        <input type="text" hidden readOnly autoComplete="username" value={email} />
        <Field
          label={t`Present password`}
          type="password"
          autoComplete="current-password"
          {...f.text("old")}
        />
        <Field
          label={t`New password`}
          hint={t`at least 10 characters; three or four words that don’t belong together`}
          type="password"
          autoComplete="new-password"
          {...f.text("password")}
        />
        <div className="flex items-center gap-3">
          <button type="submit" className="btn" disabled={save.isPending}>
            {t`Change the password`}
          </button>
          <SaveState error={save.error} saving={false} />
          {save.isSuccess && <span role="status">{t`Changed. All your other devices are signed out.`}</span>}
        </div>
      </form>
    </section>
  );
}

function Devices({ own }: { own: Own }) {
  const end = useOwnChange(
    (device: string) => need(api.DELETE("/api/me/devices", { params: { query: device ? { device } : {} } })),
    itself,
  );
  return (
    <section aria-label={t`Signed in on`}>
      <Title>{t`Signed in on`}</Title>
      <ul>
        {own.devices.map((d) => (
          <li key={d.id} className="flex flex-wrap items-center gap-x-4 border-b border-rule py-2">
            <span className="mr-auto">
              <b>{d.name}</b>
              <span className="block text-[14px] text-ink-2">
                {d.here ? t`this one` : t`last used ${moment(d.seen)}`}
                {t`, signed in ${moment(d.at)}`}
              </span>
            </span>
            {!d.here && (
              <button
                type="button"
                className="btn-quiet"
                aria-label={t`Sign out on ${d.name}`}
                onClick={() => end.mutate(d.id)}
              >
                {t`Sign out`}
              </button>
            )}
          </li>
        ))}
      </ul>
      {own.devices.length > 1 && (
        <button type="button" className="btn mt-3" disabled={end.isPending} onClick={() => end.mutate("")}>
          {t`Sign out on all others`}
        </button>
      )}
      <SaveState error={end.error} saving={false} />
    </section>
  );
}
