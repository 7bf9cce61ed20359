import { t } from "@lingui/core/macro";
import type { ReactNode } from "react";
import { Link } from "react-router";
import { Problem } from "../../api/client";
import { Say } from "../../parts/field";
import { SaveState } from "../../parts/states";
import { usePageTitle } from "../../parts/title";

/** The server's sentences about a whole thing, without its inner name. */
export function Faults({ error, field }: { error: Error | null; field: string }) {
  const own = error instanceof Problem && error.fields[field];
  return own ? <Say id={`fault-${field}`} error={own.replace(/^(exercise|ladder) "[^"]*": /, "")} /> : null;
}

/** A form of something own: its name, what it does to plans, and what comes after. */
export function OwnForm({
  title,
  say,
  className,
  back,
  drop,
  save,
  submit,
  children,
}: {
  title: string;
  say: string;
  className?: string;
  back: string;
  drop: () => void;
  save: { error: Error | null; isPending: boolean };
  submit: (e: React.FormEvent) => void;
  children: ReactNode;
}) {
  usePageTitle(title, t`Shelf`);
  return (
    <form className={className} onSubmit={submit}>
      <h1 className="mb-1">{title}</h1>
      <p className="mb-5 max-w-3xl text-ink-2">{say}</p>
      {children}
      <div className="mt-5 flex flex-wrap items-center gap-4">
        <button type="submit" className="btn btn-main" disabled={save.isPending}>
          {t`Save`}
        </button>
        <Link className="btn" to={back} onClick={drop}>
          {t`Cancel`}
        </Link>
        <SaveState error={save.error} saving={save.isPending} />
      </div>
    </form>
  );
}
