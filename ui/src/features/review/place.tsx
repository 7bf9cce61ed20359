import { t } from "@lingui/core/macro";
import { useState } from "react";
import type { Schema } from "../../api/client";
import { Choice, painScale } from "../../parts/field";
import { Tick, withOrWithout } from "../../parts/tick";
import { When } from "../../parts/when";
import { useZones } from "../running/hooks";
import type { Place } from "./day";

export function NewPlace({
  list,
  onAdd,
  onDrop,
}: {
  list: readonly Place[];
  onAdd: (p: Place) => void;
  onDrop: (i: number) => void;
}) {
  const zones = useZones();
  const [place, setPlace] = useState<Place>({});
  const name = (id?: string) => zones.data?.items.find((z) => z.id === id)?.name ?? id;
  return (
    <div>
      <label>
        <span className="mb-1 block font-semibold">{t`Anything new?`}</span>
        <select
          className="field max-w-72"
          value=""
          onChange={(e) => {
            const [zone, side] = e.target.value.split("/");
            if (zone) setPlace({ zone, side: side as Place["side"] });
          }}
        >
          <option value="">{t`nothing new`}</option>
          {zones.data?.items.flatMap((z) =>
            (["left", "right"] as const).map((s) => (
              <option key={`${z.id}${s}`} value={`${z.id}/${s}`}>
                {z.name}, {s}
              </option>
            )),
          )}
        </select>
      </label>
      {place.zone && (
        <fieldset className="mt-2 border-l-4 border-edge bg-paper p-3">
          <legend className="sr-only">
            {name(place.zone)}, {place.side}
          </legend>
          <p className="font-semibold">
            {name(place.zone)}, {place.side}
          </p>
          <Choice
            label={t`First steps today`}
            compact
            options={painScale}
            value={place.firstStep}
            onChange={(firstStep) => setPlace({ ...place, firstStep })}
          />
          <Choice
            label={t`At rest`}
            compact
            options={painScale}
            value={place.rest}
            onChange={(rest) => setPlace({ ...place, rest })}
          />
          <p className="mt-1 text-[14px]">{t`It hurts`}</p>
          <When value={place.when} onChange={(when) => setPlace({ ...place, when })} />
          <div className="mt-2 flex gap-3">
            <button
              type="button"
              className="btn btn-main"
              onClick={() => {
                onAdd(place);
                setPlace({});
              }}
            >
              {t`Keep the place`}
            </button>
            <button type="button" className="btn" onClick={() => setPlace({})}>
              {t`Leave it`}
            </button>
          </div>
        </fieldset>
      )}
      <ul>
        {list.map((p, i) => (
          <li key={`${p.zone}${p.side}`} className="flex items-center gap-3">
            {t`new: ${name(p.zone) ?? ""}, ${p.side ?? ""}`}
            <button type="button" className="btn-quiet" onClick={() => onDrop(i)}>
              {t`Take back`}
            </button>
          </li>
        ))}
      </ul>
    </div>
  );
}

/** The safety questions, because a place is new. A yes acts at once. */
export function Questions({
  groups,
  onDone,
}: {
  groups: readonly Schema["SafetyGroup"][];
  onDone: (a: Schema["SafetyAnswers"]) => void;
}) {
  const [yes, setYes] = useState<Record<string, string>>({});
  const [none, setNone] = useState<string[]>([]);
  return (
    <form
      aria-label={t`Safety questions`}
      className="mt-4 border-l-4 border-clay bg-paper p-4"
      onSubmit={(e) => {
        e.preventDefault();
        onDone({ yes, none });
      }}
    >
      <h3 className="mb-1">{t`Something new: ask before anything is loaded`}</h3>
      <p className="mb-2 text-ink-2">{t`Tick all that apply. Unanswered counts as the cautious answer.`}</p>
      <div className="grid gap-x-8 gap-y-2 md:grid-cols-2">
        {groups.map((g) => (
          <fieldset key={g.name} className="border-b border-rule pb-2">
            <legend className="font-semibold">{g.name}</legend>
            {g.questions.map((q) => (
              <Tick
                key={q.id}
                className="flex items-start gap-2 py-0.5 text-[14px]"
                label={q.text}
                on={q.id in yes}
                onChange={(on) => {
                  const next = { ...yes };
                  if (on) next[q.id] = "both";
                  else delete next[q.id];
                  setYes(next);
                  setNone(none.filter((x) => x !== g.name));
                }}
              />
            ))}
            <Tick
              className="flex items-center gap-2 py-0.5 text-[14px]"
              label={t`none of these`}
              on={none.includes(g.name)}
              disabled={g.questions.some((q) => q.id in yes)}
              onChange={(on) => setNone(withOrWithout(none, g.name, on))}
            />
          </fieldset>
        ))}
      </div>
      <button type="submit" className="btn btn-main mt-3">
        {t`Keep the answers`}
      </button>
    </form>
  );
}
