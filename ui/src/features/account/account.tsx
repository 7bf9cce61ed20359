import { t } from "@lingui/core/macro";
import { useMutation, useQuery } from "@tanstack/react-query";
import { type ComponentProps, type ReactNode, useState } from "react";
import * as z from "zod/mini";
import { api, need, Problem } from "../../api/client";
import { client } from "../../api/hooks";
import { useTheme } from "../../app/shell";
import { Field } from "../../parts/field";
import { needed, useChecked } from "../../parts/form";
import { Logo } from "../../parts/marks";
import { Loading, SaveState } from "../../parts/states";

export function Frame({ children }: { children: ReactNode }) {
  useTheme();
  return (
    <main className="mx-auto grid min-h-screen max-w-md content-center gap-6 px-5 py-10">
      <Logo />
      {children}
      <p className="text-[14px] text-ink-2">
        {t`Notchback helps a coach plan. It does not diagnose and does not treat; local rules and licensed practice come first.`}
      </p>
    </main>
  );
}

/** The door: first run in an empty installation, sign-in otherwise. */
export function Door() {
  const start = useQuery({ queryKey: ["start"], queryFn: () => need(api.GET("/api/start")) });
  if (start.isPending)
    return (
      <Frame>
        <Loading what={t`Notchback`} />
      </Frame>
    );
  return <Frame>{start.data?.empty ? <FirstRun /> : <SignIn />}</Frame>;
}

function enter(me: unknown) {
  client.removeQueries({ predicate: (q) => q.queryKey[0] !== "me" && q.queryKey[0] !== "start" });
  client.setQueryData(["me"], me);
  void client.invalidateQueries({ queryKey: ["me"] }); // whose drafts, and what waits
}

/** A browser that keeps no cookie of ours (http where the server wants https) is told so. */
async function kept() {
  if ((await need(api.GET("/api/session"))).me) return;
  throw new Error(
    location.protocol === "https:"
      ? t`The password is right, but this browser did not keep the sign-in: it refuses cookies. Allow them for this address and sign in again.`
      : t`The password is right, but this browser did not keep the sign-in: this address begins with http, and the server wants https. Open it as https://${location.host}.`,
  );
}

const credentials = z.object({
  email: needed(t`Type the address you sign in with`),
  password: z.string().check(z.minLength(1, t`Type your password`)),
  code: z.string(),
});

function SignIn() {
  const f = useChecked(credentials, { email: "", password: "", code: "" });
  const [second, setSecond] = useState(false);
  const go = useMutation({
    mutationFn: async ({ code, ...rest }: z.output<typeof credentials>) => {
      const me = await need(api.POST("/api/session", { body: code ? { ...rest, code } : rest }));
      await kept();
      return me;
    },
    retry: false,
    onError: (e) => {
      // The password is right, and a code is asked for as well.
      if (e instanceof Problem && e.fields.code) {
        if (second) f.refused(e);
        setSecond(true);
      }
    },
    onSuccess: enter,
  });
  return (
    <form onSubmit={f.form.handleSubmit((v) => go.mutate(v))} className="grid gap-4" noValidate>
      <h1>{t`Sign in`}</h1>
      <Field label={t`E-mail`} type="email" autoComplete="username" required {...f.text("email")} />
      <Field
        label={t`Password`}
        type="password"
        autoComplete="current-password"
        required
        {...f.text("password")}
      />
      {second && <CodeField {...f.text("code")} />}
      <SaveState
        error={go.error instanceof Problem && go.error.fields.code ? null : go.error}
        saving={false}
      />
      <button type="submit" className="btn btn-main" disabled={go.isPending}>
        {t`Sign in`}
      </button>
    </form>
  );
}

/** The code of a second device, or a recovery code. */
export function CodeField(props: ComponentProps<"input"> & { error?: string }) {
  return (
    <Field
      label={t`Code of your second device`}
      hint={t`six digits that change every half minute, or a recovery code`}
      autoComplete="one-time-code"
      autoFocus
      maxLength={40}
      {...props}
    />
  );
}

const firstRun = z.object({
  practice: z.string(),
  name: z.string(),
  email: z.string(),
  password: z.string(),
  zone: z.string(),
});

function FirstRun() {
  const f = useChecked(firstRun, {
    practice: "",
    name: "",
    email: "",
    password: "",
    zone: Intl.DateTimeFormat().resolvedOptions().timeZone || "UTC",
  });
  const go = useMutation({
    mutationFn: (body: z.output<typeof firstRun>) => need(api.POST("/api/first-run", { body })),
    retry: false,
    onError: f.refused,
    onSuccess: enter,
  });
  return (
    <form className="grid gap-4" noValidate onSubmit={f.form.handleSubmit((v) => go.mutate(v))}>
      <div>
        <h1>{t`Set up your practice`}</h1>
        <p className="mt-2 text-ink-2">{t`This installation is empty. You become its owner.`}</p>
      </div>
      <Field label={t`Practice`} hint={t`The name your runners know`} {...f.text("practice")} />
      <Field label={t`Your name`} autoComplete="name" {...f.text("name")} />
      <Field label={t`E-mail`} type="email" autoComplete="username" {...f.text("email")} />
      <Field
        label={t`Password`}
        type="password"
        autoComplete="new-password"
        hint={t`At least 10 characters`}
        {...f.text("password")}
      />
      <Field label={t`Time zone`} hint={t`Days and weeks are counted in it`} {...f.text("zone")} />
      <SaveState error={go.error} saving={go.isPending} />
      <button type="submit" className="btn btn-main" disabled={go.isPending}>
        {t`Create the practice`}
      </button>
    </form>
  );
}
