import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { lazy, Suspense, useState } from "react";
import { Link, useSearchParams } from "react-router";
import { Title } from "../../parts/marks";
import { type Block, useChange } from "./change";
import { weekdays } from "./hooks";
import { ChangeError } from "./outlook";

const GiveForm = lazy(async () => ({ default: (await import("./giveform")).GiveForm }));

/** Small sessions given whole: what stands in the block, and a way to give another. */
export function Routines({ b }: { b: Block }) {
  const [params, setParams] = useSearchParams();
  const asked = params.get("give") ?? "";
  const [open, setOpen] = useState(!!asked);
  const close = () => {
    setOpen(false);
    setParams({}, { replace: true });
  };
  if (b.ended && b.routines.length === 0) return null;
  return (
    <section aria-label={t`Routines`} className="mb-6">
      <Title aside={t`a small session, given whole`}>{t`Routines`}</Title>
      {b.routines.map((r) => (
        <Given key={r.id} b={b} r={r} />
      ))}
      {b.routines.length === 0 && !open && (
        <p className="text-ink-2">
          <Trans>
            None given. They stand on the{" "}
            <Link className="underline" to="/shelf/routines">
              Shelf
            </Link>
            : for a sore heel, before a run, a stiff ankle, barefoot beginnings and more.
          </Trans>
        </p>
      )}
      {!b.ended && !open && (
        <button type="button" className="btn mt-3" onClick={() => setOpen(true)}>
          {t`Give a routine`}
        </button>
      )}
      {open && (
        <Suspense fallback={null}>
          <GiveForm b={b} first={asked} done={close} />
        </Suspense>
      )}
    </section>
  );
}

function Given({ b, r }: { b: Block; r: Block["routines"][number] }) {
  const off = useChange(b);
  return (
    <article
      aria-label={r.name}
      className="grid gap-x-5 gap-y-1 border-b border-rule py-3 md:grid-cols-[12.5rem_minmax(0,1fr)_auto]"
    >
      <div>
        <h3>{r.name}</h3>
        <p className="text-[14px] text-ink-2">
          {t`${r.days.map((d) => weekdays[d]).join(" ")} · ${r.minutes} min${r.long ? t`, the long version` : ""}`}
        </p>
      </div>
      <div className="min-w-0 text-[14px]">
        <ol className="list-decimal pl-5">
          {r.parts.map((p) => (
            <li key={p}>{p}</li>
          ))}
        </ol>
        {r.dropped.map((x) => (
          <p key={x} className="mt-1 text-ink-2">
            <Trans>
              <span aria-hidden="true">▲ </span>not now – {x}
            </Trans>
          </p>
        ))}
        {r.late && <p className="mt-1">{r.late}</p>}
      </div>
      {!b.ended && (
        <p>
          <button
            type="button"
            className="btn-quiet"
            disabled={off.isPending}
            aria-label={t`take off: ${r.name}`}
            onClick={() => off.mutate({ kind: "routine-off", routine: r.id })}
          >
            {t`Take off`}
          </button>
          <ChangeError error={off.error} saving={off.isPending} />
        </p>
      )}
    </article>
  );
}
