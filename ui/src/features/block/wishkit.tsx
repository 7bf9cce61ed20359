import { Tick, withOrWithout } from "../../parts/tick";
import { QuestionRow } from "../shelf/schools";
import type { Wishes } from "./hooks";
import type { SetWishes, View } from "./wishes";

export function Kit({ v, w, set }: { v: View; w: Wishes; set: SetWishes }) {
  return (
    <details>
      <summary className="font-semibold">
        Kit at hand <span className="font-normal text-ink-2">{w.owned.length} things</span>
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
        Added and left out{" "}
        <span className="font-normal text-ink-2">
          {w.added.length} in, {w.excluded.length} out
        </span>
      </summary>
      <ul className="mt-1">
        {w.added.map((id) => (
          <li key={id} className="flex justify-between gap-3 border-b border-rule py-1">
            <span>{name(id)} added</span>
            <button
              type="button"
              className="btn-quiet"
              aria-label={`not add ${name(id)}`}
              onClick={() => set({ added: w.added.filter((x) => x !== id) })}
            >
              Take back
            </button>
          </li>
        ))}
        {w.excluded.map((x) => (
          <li key={x.ladder} className="flex justify-between gap-3 border-b border-rule py-1">
            <span>
              {name(x.ladder)} left out: {x.reason}
            </span>
            <button
              type="button"
              className="btn-quiet"
              aria-label={`bring back ${name(x.ladder)}`}
              onClick={() => set({ excluded: w.excluded.filter((y) => y.ladder !== x.ladder) })}
            >
              Bring back
            </button>
          </li>
        ))}
      </ul>
      <label className="mt-2 block">
        <span className="block text-[13px] text-ink-2">Add a ladder</span>
        <select
          className="field"
          value=""
          onChange={(e) => e.target.value && set({ added: [...w.added, e.target.value] })}
        >
          <option value="">choose</option>
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
        Schools{" "}
        <span className="font-normal text-ink-2">
          {count ? `${count} of this runner's own` : "as the practice"}
        </span>
      </summary>
      {v.questions.map((q) => (
        <QuestionRow
          key={q.id}
          q={q}
          answer={own[q.id]}
          under={v.practice[q.id] || q.default}
          underName="As the practice"
          compact
          onAnswer={(a) => set({ school: { ...own, [q.id]: a } })}
        />
      ))}
    </details>
  );
}
