import { useMutation, useQuery } from "@tanstack/react-query";
import { type FormEvent, type ReactNode, useState } from "react";
import { api, need, Problem } from "../api/client";
import { client } from "../api/hooks";
import { Field } from "../parts/field";
import { Logo } from "../parts/marks";
import { useTheme } from "../parts/shell";
import { Loading, SaveState } from "../parts/states";

function Frame({ children }: { children: ReactNode }) {
  useTheme();
  return (
    <main className="mx-auto grid min-h-screen max-w-md content-center gap-6 px-5 py-10">
      <Logo />
      {children}
      <p className="text-[14px] text-ink-2">
        Notchback helps a coach plan. It does not diagnose and does not treat; local rules and licensed
        practice come first.
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
        <Loading what="Notchback" />
      </Frame>
    );
  return <Frame>{start.data?.empty ? <FirstRun /> : <SignIn />}</Frame>;
}

function enter(me: unknown) {
  client.removeQueries({ predicate: (q) => q.queryKey[0] !== "me" && q.queryKey[0] !== "start" });
  client.setQueryData(["me"], me);
}

function SignIn() {
  const [email, setEmail] = useState("");
  const [password, setPassword] = useState("");
  const go = useMutation({
    mutationFn: () => need(api.POST("/api/session", { body: { email, password } })),
    retry: false,
    onSuccess: enter,
  });
  const submit = (e: FormEvent) => {
    e.preventDefault();
    go.mutate();
  };
  return (
    <form onSubmit={submit} className="grid gap-4" noValidate>
      <h1>Sign in</h1>
      <Field
        label="E-mail"
        type="email"
        autoComplete="username"
        required
        value={email}
        onChange={(e) => setEmail(e.target.value)}
      />
      <Field
        label="Password"
        type="password"
        autoComplete="current-password"
        required
        value={password}
        onChange={(e) => setPassword(e.target.value)}
      />
      <SaveState error={go.error} saving={false} />
      <button type="submit" className="btn btn-main" disabled={go.isPending || !email || !password}>
        Sign in
      </button>
    </form>
  );
}

function FirstRun() {
  const [v, set] = useState({
    practice: "",
    name: "",
    email: "",
    password: "",
    zone: Intl.DateTimeFormat().resolvedOptions().timeZone || "UTC",
  });
  const go = useMutation({
    mutationFn: () => need(api.POST("/api/first-run", { body: v })),
    retry: false,
    onSuccess: enter,
  });
  const bad = go.error instanceof Problem ? go.error.fields : {};
  const on = (k: keyof typeof v) => ({
    value: v[k],
    error: bad[k],
    onChange: (e: { target: { value: string } }) => set({ ...v, [k]: e.target.value }),
  });
  return (
    <form
      className="grid gap-4"
      noValidate
      onSubmit={(e) => {
        e.preventDefault();
        go.mutate();
      }}
    >
      <div>
        <h1>Set up your practice</h1>
        <p className="mt-2 text-ink-2">This installation is empty. You become its owner.</p>
      </div>
      <Field label="Practice" hint="The name your runners know" {...on("practice")} />
      <Field label="Your name" autoComplete="name" {...on("name")} />
      <Field label="E-mail" type="email" autoComplete="username" {...on("email")} />
      <Field
        label="Password"
        type="password"
        autoComplete="new-password"
        hint="At least 10 characters"
        {...on("password")}
      />
      <Field label="Time zone" hint="Days and weeks are counted in it" {...on("zone")} />
      <SaveState error={go.error} saving={go.isPending} />
      <button type="submit" className="btn btn-main" disabled={go.isPending}>
        Create the practice
      </button>
    </form>
  );
}
