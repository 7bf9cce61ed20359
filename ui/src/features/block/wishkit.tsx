import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Tick, withOrWithout } from "../../parts/tick";
import { QuestionRow } from "../shelf/schools";
import type { Wishes } from "./hooks";
import type { SetWishes, View } from "./wishes";

export function Kit({ v, w, set }: { v: View; w: Wishes; set: SetWishes }) {
  return (
    <details>
      <summary className="font-semibold">
        <Trans>
          Kit at hand <span className="font-normal text-ink-2">{w.owned.length} things</span>
        </Trans>
      </summary>
      <div className="mt-1 grid grid-cols-2 gap-x-3">
        {v.kit
          .filter((k) => !k.always)
          .map((k) => (
            <Tick
              key={k.id}
              label={k.name}
              on={w.owned.includes(k.id)}
              onChange={(on) => set({ owned: withOrWithout(w.owned, k.id, on) })}
            />
          ))}
      </div>
    </details>
  );
}

/** What the coach puts in or leaves out by hand. */
export function Hands({ v, w, set }: { v: View; w: Wishes; set: SetWishes }) {
  const name = (id: string) => v.ladders.find((l) => l.id === id)?.name ?? id;
  return (
    <details open={w.added.length + w.excluded.length > 0}>
      <summary className="font-semibold">
        <Trans>
          Added and left out{" "}
          <span className="font-normal text-ink-2">
            {w.added.length} in, {w.excluded.length} out
          </span>
        </Trans>
      </summary>
      <ul className="mt-1">
        {w.added.map((id) => (
          <li key={id} className="flex justify-between gap-3 border-b border-rule py-1">
            <span>{t`${name(id)} added`}</span>
            <button
              type="button"
              className="btn-quiet"
              aria-label={t`not add ${name(id)}`}
              onClick={() => set({ added: w.added.filter((x) => x !== id) })}
            >
              {t`Take back`}
            </button>
          </li>
        ))}
        {w.excluded.map((x) => (
          <li key={x.ladder} className="flex justify-between gap-3 border-b border-rule py-1">
            <span>{t`${name(x.ladder)} left out: ${x.reason}`}</span>
            <button
              type="button"
              className="btn-quiet"
              aria-label={t`bring back ${name(x.ladder)}`}
              onClick={() => set({ excluded: w.excluded.filter((y) => y.ladder !== x.ladder) })}
            >
              {t`Bring back`}
            </button>
          </li>
        ))}
      </ul>
      <label className="mt-2 block">
        <span className="block text-[13px] text-ink-2">{t`Add a ladder`}</span>
        <select
          className="field"
          value=""
          onChange={(e) => e.target.value && set({ added: [...w.added, e.target.value] })}
        >
          <option value="">{t`choose`}</option>
          {v.ladders
            .filter((l) => !w.added.includes(l.id))
            .map((l) => (
              <option key={l.id} value={l.id}>
                {l.name}
              </option>
            ))}
        </select>
      </label>
    </details>
  );
}

export function Schools({ v, w, set }: { v: View; w: Wishes; set: SetWishes }) {
  const own = w.school ?? {};
  const count = Object.values(own).filter(Boolean).length;
  return (
    <details>
      <summary className="font-semibold">
        <Trans>
          Schools{" "}
          <span className="font-normal text-ink-2">
            {count ? t`${count} of this runner's own` : t`as the practice`}
          </span>
        </Trans>
      </summary>
      {v.questions.map((q) => (
        <QuestionRow
          key={q.id}
          q={q}
          answer={own[q.id]}
          under={v.practice[q.id] || q.default}
          underName={t`As the practice`}
          compact
          onAnswer={(a) => set({ school: { ...own, [q.id]: a } })}
        />
      ))}
    </details>
  );
}
