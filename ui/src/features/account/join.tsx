import { t } from "@lingui/core/macro";
import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import * as z from "zod/mini";
import { api, need } from "../../api/client";
import { Field } from "../../parts/field";
import { useChecked } from "../../parts/form";
import { Failed, Loading, SaveState } from "../../parts/states";
import { usePageTitle } from "../../parts/title";
import { CodeField, Frame } from "./account";

const rules = z.object({ name: z.string(), email: z.string(), password: z.string(), code: z.string() });

/** What a link leads to: a page in a practice, or a new password. */
export function Join() {
  const [token] = useState(() => location.hash.slice(1));
  usePageTitle(t`Welcome`);
  const w = useQuery({
    queryKey: ["welcome", token],
    queryFn: () => need(api.POST("/api/welcome", { body: { token } })),
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
  });
  const f = useChecked(rules, { name: "", email: "", password: "", code: "" });
  const go = useMutation({
    mutationFn: ({ code, ...v }: z.output<typeof rules>) =>
      need(
        api.POST("/api/join", {
          body:
            w.data?.kind === "join"
              ? { token, ...v }
              : { token, password: v.password, ...(code && { code }) },
        }),
      ),
    retry: false,
    onError: f.refused,
    // The page begins anew; the link's secret leaves the address bar.
    onSuccess: () => location.replace("/"),
  });
  if (w.isPending)
    return (
      <Frame>
        <Loading what={t`the link`} />
      </Frame>
    );
  if (w.error)
    return (
      <Frame>
        <Failed error={w.error} />
      </Frame>
    );
  const join = w.data.kind === "join";
  const what = { owner: t`an owner`, coach: t`a coach`, viewer: t`a viewer`, "": "" }[w.data.role ?? ""];
  return (
    <Frame>
      <form className="grid gap-4" noValidate onSubmit={f.form.handleSubmit((v) => go.mutate(v))}>
        <div>
          <h1>{join ? t`Welcome to ${w.data.practice}` : t`A new password`}</h1>
          <p className="mt-2 text-ink-2">
            {join
              ? t`You come in as ${what}. Say who you are and choose a password.`
              : t`For ${w.data.name ?? ""}, ${w.data.practice}. You are signed out on all devices and in on this one.`}
          </p>
        </div>
        {join && (
          <>
            <Field label={t`Your name`} autoComplete="name" {...f.text("name")} />
            <Field
              label={t`E-mail`}
              hint={t`you sign in with it`}
              type="email"
              autoComplete="username"
              {...f.text("email")}
            />
          </>
        )}
        {!join && <input type="text" hidden readOnly autoComplete="username" value={w.data.name ?? ""} />}
        <Field
          label={t`Password`}
          type="password"
          autoComplete="new-password"
          hint={t`At least 10 characters; three or four words that don’t belong together`}
          {...f.text("password")}
        />
        {w.data.second && <CodeField {...f.text("code")} />}
        <SaveState error={go.error} saving={go.isPending} />
        <button type="submit" className="btn btn-main" disabled={go.isPending}>
          {join ? t`Come in` : t`Set the password`}
        </button>
      </form>
    </Frame>
  );
}
