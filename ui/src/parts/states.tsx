import { t } from "@lingui/core/macro";
import { type ReactNode, useEffect, useRef } from "react";
import { Link } from "react-router";
import { NoConnection, Problem } from "../api/client";

export function Loading({ what }: { what: string }) {
  return (
    <p role="status" className="py-10 text-ink-2">
      {t`Loading ${what}…`}
    </p>
  );
}

/** A failed view: what is wrong, and what to do. */
export function Failed({ error, retry }: { error: Error; retry?: () => void }) {
  const gone = error instanceof Problem && error.status === 404;
  const away = error instanceof NoConnection || (error instanceof Problem && error.status === 503);
  // What is away for a moment is looked for again.
  const again = useRef(retry);
  again.current = retry;
  useEffect(() => {
    if (!away) return;
    const look = setInterval(() => again.current?.(), 5_000);
    return () => clearInterval(look);
  }, [away]);
  return (
    <div role="alert" className="my-8 max-w-xl border-l-4 border-clay bg-paper p-5">
      <h2>
        {gone ? t`Nothing here` : error instanceof NoConnection ? t`No connection` : t`This did not load`}
      </h2>
      <p className="mt-1 text-ink-2">
        {gone ? t`This record does not exist in your practice, or the address is wrong.` : error.message}
        {away && retry && ` ${t`This page looks again every few seconds.`}`}
      </p>
      <p className="mt-4 flex gap-3">
        {retry && !gone && (
          <button type="button" className="btn" onClick={retry}>
            {t`Try again`}
          </button>
        )}
        <Link className="btn" to="/">
          {t`To the bench`}
        </Link>
      </p>
    </div>
  );
}

export function Empty({ title, children }: { title: string; children: ReactNode }) {
  return (
    <div className="my-6 max-w-xl border-l-4 border-rule bg-paper p-5">
      <h2 className="text-[17px]">{title}</h2>
      <div className="mt-1 text-ink-2">{children}</div>
    </div>
  );
}

/** What became of the last save, beside the button that started it. */
export function SaveState({ error, saving }: { error: Error | null; saving: boolean }) {
  if (error && !(error instanceof Problem && Object.keys(error.fields).length > 0)) {
    return (
      <p role="alert" className="text-clay">
        {error.message}
      </p>
    );
  }
  if (error) {
    return (
      <p role="alert" className="text-clay">
        {t`Not saved: look at the marked fields.`}
      </p>
    );
  }
  return saving ? (
    <p role="status" className="text-ink-2">
      {t`Saving… If the connection is lost it is kept here and tried again.`}
    </p>
  ) : null;
}
