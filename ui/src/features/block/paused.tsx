import { t } from "@lingui/core/macro";
import { Link } from "react-router";
import type { Schema } from "../../api/client";
import { SideName } from "../../parts/marks";

/** What is not done as it stands today, and why; the notch is kept. */
export function Paused({ list }: { list: readonly Schema["PausedView"][] }) {
  if (list.length === 0) return null;
  return (
    <details className="mb-5 border-l-4 border-edge bg-paper px-4 py-2" aria-label={t`Not done now`}>
      <summary>
        <b>{t`Not done now:`}</b> {[...new Set(list.map((p) => p.name))].join(", ")}.{" "}
        <span className="text-ink-2">{t`The notch is kept.`}</span>
      </summary>
      <ul className="mt-2">
        {list.map((p) => (
          <li
            key={`${p.ladder}${p.side}`}
            className="grid gap-x-5 border-b border-rule py-1.5 text-[14px] md:grid-cols-[15rem_6rem_1fr]"
          >
            <span>
              <b>{p.name}</b>
              <span className="block text-ink-2">{p.notch}</span>
            </span>
            <span>{p.side === "both" ? t`both sides` : <SideName side={p.side} />}</span>
            <span>
              {p.words[0]?.toUpperCase() + p.words.slice(1)}.
              {p.instead && <b className="block">{t`Meanwhile ${p.instead}`}</b>}
            </span>
          </li>
        ))}
      </ul>
    </details>
  );
}

/** Places that began to hurt whose safety questions nobody has answered. */
export function Asks({ list, runner }: { list: readonly Schema["AskView"][]; runner: string }) {
  if (list.length === 0) return null;
  return (
    <div role="alert" className="mb-5 border-l-4 border-clay bg-clay-wash p-4">
      {list.map((a) => (
        <p key={`${a.zone}${a.side}`}>
          <b>▲ {a.name[0]?.toUpperCase() + a.name.slice(1)}.</b> {a.words}
        </p>
      ))}
      <Link className="btn mt-2" to={`/runners/${runner}/log#day`}>
        {t`Answer the questions`}
      </Link>
    </div>
  );
}
