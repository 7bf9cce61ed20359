import { t } from "@lingui/core/macro";
import { Link } from "react-router";
import { Title } from "../../parts/marks";
import { type Block, useChange } from "./change";
import { ChangeError } from "./outlook";

/** What is said of the whole block: a week without pain, and what follows it. */
export function Words({ b }: { b: Block }) {
  if (!b.quiet && !b.ends) return null;
  return (
    <div className="mb-4 grid gap-2">
      {b.quiet && <p className="border-l-4 border-pine bg-paper px-4 py-2">{b.quiet}</p>}
      {b.ends && (
        <p className="flex flex-wrap items-baseline gap-x-4 border-l-4 border-ink bg-paper px-4 py-2">
          {b.ends}
          <Link className="underline underline-offset-4" to={`/runners/${b.runnerId}`}>
            {t`To the runner`}
          </Link>
          <Link className="underline underline-offset-4" to={`/runners/${b.runnerId}/plan`}>
            {t`Plan what follows`}
          </Link>
        </p>
      )}
    </div>
  );
}

/** Ladders that are done with and give way to the next of their path, on the coach's word. */
export function Nexts({ b }: { b: Block }) {
  if (b.nexts.length === 0 || b.ended) return null;
  return (
    <section aria-label={t`Next on the path`} className="mb-6">
      <Title aside={t`counts as a step up of the week; it waits for you`}>{t`Next on the path`}</Title>
      {b.nexts.map((n) => (
        <Row key={n.ladder} b={b} n={n} />
      ))}
    </section>
  );
}

/** The first try of an injured runner: the whole once, then what felt best stays. */
export function Tried({ b }: { b: Block }) {
  if (b.tried.length === 0) return null;
  return (
    <section aria-label={t`The first try`} className="mb-6">
      <Title aside={t`the whole once; what felt best stays`}>{t`The first try`}</Title>
      <ul className="grid gap-x-8 md:grid-cols-2">
        {b.tried.map((it) => (
          <TriedRow key={it.ladder} b={b} t={it} />
        ))}
      </ul>
    </section>
  );
}

function TriedRow({ b, t: it }: { b: Block; t: Block["tried"][number] }) {
  const change = useChange(b);
  return (
    <li className="border-b border-rule py-2">
      <div className="flex min-h-11 flex-wrap items-center justify-between gap-x-4">
        <p>
          <b>{it.name}</b>
          <span className="block text-[14px] text-ink-2">{it.words}</span>
        </p>
        {it.keep ? (
          <span className="text-pine">{t`felt best: keep`}</span>
        ) : (
          <button
            type="button"
            className="btn"
            aria-label={t`Leave out ${it.name}`}
            disabled={change.isPending}
            onClick={() =>
              change.mutate({
                kind: "leave-out",
                ladder: it.ladder,
                reason: t`the rest felt better in the first try (${it.words})`,
              })
            }
          >
            {t`Leave out`}
          </button>
        )}
      </div>
      <ChangeError error={change.error} saving={change.isPending} />
    </li>
  );
}

function Row({ b, n }: { b: Block; n: Block["nexts"][number] }) {
  const change = useChange(b);
  return (
    <article
      aria-label={t`${n.name} to ${n.toName}`}
      className="grid items-baseline gap-x-5 gap-y-1 border-b border-rule py-2.5 md:grid-cols-[minmax(0,22rem)_minmax(0,1fr)_auto]"
    >
      <div>
        <h3>
          {n.name} → {n.toName}
        </h3>
        <p className="text-[14px]">{t`begins with ${n.words}`}</p>
      </div>
      <p className="text-[14px]">
        {n.because}.<span className="block text-ink-2">{t`Works on: ${n.finding}.`}</span>
      </p>
      <div>
        {n.wait ? (
          <p className="text-[14px] text-ink-2">{t`waits: ${n.wait}`}</p>
        ) : (
          <button
            type="button"
            className="btn btn-main"
            disabled={change.isPending}
            onClick={() =>
              change.mutate({ kind: "change", ladder: n.ladder, next: n.to, reason: t`next on its path` })
            }
          >
            {t`Change over`}
          </button>
        )}
        <ChangeError error={change.error} saving={change.isPending} />
      </div>
    </article>
  );
}
