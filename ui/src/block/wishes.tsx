import type { Schema } from "../api/client";
import { Choice } from "../parts/field";
import { Slide, Tick } from "../parts/slide";
import { QuestionRow } from "../shelf/schools";
import { type Wishes, weekdays } from "./hooks";

type View = Schema["WishesView"];
type Set = (part: Partial<Wishes>) => void;

const runKinds = [
  { value: "", label: "–", title: "no run" },
  { value: "easy", label: "easy", title: "easy run" },
  { value: "long", label: "long", title: "long run" },
  { value: "fast", label: "fast", title: "fast run" },
];

const put = <T,>(list: readonly T[], i: number, v: T): T[] => list.map((x, k) => (k === i ? v : x));

/** What the runner's week, kit and aims are: everything a plan is fitted to. */
export function WishesForm({
  v,
  w,
  set,
  bad,
  kmNow,
}: {
  v: View;
  w: Wishes;
  set: Set;
  bad: Record<string, string>;
  kmNow: number;
}) {
  return (
    <div className="grid gap-5">
      <Week w={w} set={set} bad={bad} />
      <div className="grid gap-2">
        <Slide
          label="Running a week"
          unit="km"
          min={0}
          max={140}
          step={1}
          value={w.weeklyKm}
          empty={kmNow ? `as now, ${kmNow} km` : "not known"}
          rest={kmNow}
          onChange={(weeklyKm) => set({ weeklyKm })}
        />
        <Slide
          label="Main sessions a week"
          unit=""
          min={1}
          max={5}
          step={1}
          value={w.sessions}
          onChange={(sessions) => set({ sessions: sessions ?? 3 })}
        />
        <Slide
          label="Length of the block"
          unit="weeks"
          min={4}
          max={12}
          step={1}
          value={w.weeks}
          onChange={(weeks) => set({ weeks: weeks ?? 4 })}
        />
        <Slide
          label="Runs start at"
          unit="o'clock"
          min={4}
          max={22}
          step={1}
          value={w.runHour}
          empty="not known"
          rest={7}
          onChange={(runHour) => set({ runHour })}
        />
      </div>
      <div className="flex flex-wrap gap-x-5 gap-y-2">
        <Tick label="A few minutes every day" on={w.micro} onChange={(micro) => set({ micro })} />
        <Tick label="Evenings are possible" on={w.evenings} onChange={(evenings) => set({ evenings })} />
      </div>
      <Choice
        label="How far without shoes"
        compact
        options={[
          { value: "", label: "not asked for" },
          { value: "home", label: "at home" },
          { value: "walk", label: "walking" },
          { value: "minimal", label: "minimal shoes" },
          { value: "bare", label: "bare feet" },
        ]}
        value={w.wish ?? ""}
        onChange={(wish) => set({ wish: wish as Wishes["wish"] })}
      />
      <Race w={w} set={set} bad={bad} />
      <Kit v={v} w={w} set={set} />
      <Hands v={v} w={w} set={set} />
      <Schools v={v} w={w} set={set} />
    </div>
  );
}

function Week({ w, set, bad }: { w: Wishes; set: Set; bad: Record<string, string> }) {
  const runs = w.runs ?? [];
  const minutes = w.minutes ?? [];
  const prefer = w.prefer ?? [];
  const avoid = w.avoid ?? [];
  return (
    <fieldset>
      <legend className="mb-1 font-semibold">The week</legend>
      <table className="w-full table-fixed border-collapse text-[14px]">
        <thead>
          <tr className="text-left text-[13px] text-ink-2">
            <th scope="col" className="w-11 font-normal">
              Day
            </th>
            <th scope="col" className="font-normal">
              Run
            </th>
            <th scope="col" className="w-20 font-normal">
              Minutes
            </th>
            <th scope="col" className="w-24 font-normal">
              Main session
            </th>
          </tr>
        </thead>
        <tbody>
          {weekdays.map((d, i) => (
            <tr key={d} className="border-t border-rule">
              <th scope="row" className="text-left font-semibold">
                {d}
              </th>
              <td className="py-1 pr-2">
                <select
                  aria-label={`${d}: run`}
                  className="field min-h-9 px-2 py-1"
                  value={runs[i] ?? ""}
                  onChange={(e) => set({ runs: put(runs, i, e.target.value) })}
                >
                  {runKinds.map((k) => (
                    <option key={k.value} value={k.value}>
                      {k.title}
                    </option>
                  ))}
                </select>
              </td>
              <td className="py-1 pr-2">
                <input
                  aria-label={`${d}: free minutes`}
                  className="field min-h-9 px-2 py-1"
                  type="number"
                  min={0}
                  max={240}
                  step={5}
                  aria-invalid={!!bad[`wishes.minutes[${i}]`]}
                  value={minutes[i] ?? 0}
                  onChange={(e) => set({ minutes: put(minutes, i, Number(e.target.value)) })}
                />
              </td>
              <td className="py-1">
                <select
                  aria-label={`${d}: liked or avoided for a main session`}
                  className="field min-h-9 px-2 py-1"
                  value={prefer[i] && avoid[i] ? "both" : prefer[i] ? "like" : avoid[i] ? "avoid" : ""}
                  onChange={(e) =>
                    set({
                      prefer: put(prefer, i, e.target.value === "like"),
                      avoid: put(avoid, i, e.target.value === "avoid"),
                    })
                  }
                >
                  <option value="">fine</option>
                  <option value="like">liked</option>
                  <option value="avoid">rather not</option>
                </select>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {Object.entries(bad)
        .filter(([k]) => k.startsWith("wishes.minutes") || k.startsWith("wishes.runs"))
        .map(([k, x]) => (
          <p key={k} className="text-[14px] text-clay">
            ▲ {x}
          </p>
        ))}
    </fieldset>
  );
}

function Race({ w, set, bad }: { w: Wishes; set: Set; bad: Record<string, string> }) {
  return (
    <fieldset className="flex flex-wrap items-end gap-3">
      <legend className="mb-1 font-semibold">Race</legend>
      <label>
        <span className="block text-[13px] text-ink-2">Date</span>
        <input
          type="date"
          className="field w-44"
          value={w.race?.on ?? ""}
          onChange={(e) =>
            set({ race: e.target.value ? { on: e.target.value, km: w.race?.km ?? 10 } : undefined })
          }
        />
      </label>
      {w.race && (
        <label>
          <span className="block text-[13px] text-ink-2">Kilometres</span>
          <input
            type="number"
            min={0}
            max={400}
            step="any"
            className="field w-28"
            aria-invalid={!!bad["wishes.race.km"]}
            value={w.race.km}
            onChange={(e) => w.race && set({ race: { ...w.race, km: Number(e.target.value) } })}
          />
        </label>
      )}
      {w.race && (
        <button type="button" className="btn-quiet" onClick={() => set({ race: undefined })}>
          no race
        </button>
      )}
    </fieldset>
  );
}

function Kit({ v, w, set }: { v: View; w: Wishes; set: Set }) {
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
              onChange={(on) => set({ owned: on ? [...w.owned, k.id] : w.owned.filter((x) => x !== k.id) })}
            />
          ))}
      </div>
    </details>
  );
}

/** What the coach puts in or leaves out by hand. */
function Hands({ v, w, set }: { v: View; w: Wishes; set: Set }) {
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
              take back
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
              bring back
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

function Schools({ v, w, set }: { v: View; w: Wishes; set: Set }) {
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
