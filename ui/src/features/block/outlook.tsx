import { t } from "@lingui/core/macro";
import { useEffect, useState } from "react";
import { Problem, type Schema } from "../../api/client";
import { SaveState } from "../../parts/states";
import { type Block, type Change, lookAhead } from "./change";

/** Broken rules and consequences of a change that is only looked at. */
export function Outlook({
  look,
  error,
}: {
  look: Schema["ChangedBlock"] | undefined;
  error: string | undefined;
}) {
  return (
    <div role="status" className="mt-1 text-[14px]">
      {error && (
        <p className="text-clay">
          <span aria-hidden="true">▲ </span>
          {error}
        </p>
      )}
      {look?.broken.map((x) => (
        <p key={x} className="font-semibold text-clay">
          <span aria-hidden="true">▲ </span>
          {x}
        </p>
      ))}
      {look && look.broken.length === 0 && !error && <p>{t`No rule is broken.`}</p>}
      {look?.consequences.map((x) => (
        <p key={x} className="text-ink-2">
          {x}
        </p>
      ))}
    </div>
  );
}

/** Looks at a change a moment after it was last touched. */
export function useLook(b: Block, c: Change | null) {
  const [look, setLook] = useState<Schema["ChangedBlock"]>();
  const [error, setError] = useState<string>();
  const body = c ? JSON.stringify(c) : "";
  // biome-ignore lint/correctness/useExhaustiveDependencies: the change as text is what it depends on
  useEffect(() => {
    setLook(undefined);
    setError(undefined);
    if (!body) return;
    let gone = false;
    const it = setTimeout(() => {
      lookAhead(b, JSON.parse(body) as Change).then(
        (x) => !gone && setLook(x),
        (e: unknown) =>
          !gone &&
          setError(
            e instanceof Problem
              ? (Object.values(e.fields)[0] ?? e.message)
              : t`No connection; look again later.`,
          ),
      );
    }, 80);
    return () => {
      gone = true;
      clearTimeout(it);
    };
  }, [body, b.id, b.revision]);
  return { look, error };
}

export function ChangeError({ error, saving }: { error: Error | null; saving: boolean }) {
  if (error instanceof Problem && Object.keys(error.fields).length > 0)
    return (
      <p role="alert" className="mt-2 text-clay">
        {Object.values(error.fields)[0]}
      </p>
    );
  return <SaveState error={error} saving={saving} />;
}
