import { t } from "@lingui/core/macro";
import { useState } from "react";
import type { Schema } from "../../api/client";

export const columns: [keyof Schema["Mapping"] & string, string][] = [
  ["date", t`Date`],
  ["time", t`Time of day`],
  ["distance", t`Distance`],
  ["duration", t`Duration`],
  ["cadence", t`Cadence`],
  ["effort", t`Effort`],
  ["footwear", t`Shoes`],
  ["surface", t`Surface`],
  ["note", t`Note`],
  ["kind", t`What it was`],
];

/** Says once which column is what; it is remembered for tables with this header. */
export function MapColumns({
  t: typed,
  done,
}: {
  t: Schema["Table"];
  done: (m: Schema["Mapping"]) => Promise<void>;
}) {
  const [m, setM] = useState(typed.mapping);
  const first = typed.rows[0] ?? [];
  return (
    <form
      aria-label={t`Map the columns`}
      className="mt-2 grid gap-2 border-l-4 border-ink bg-paper p-3"
      onSubmit={(e) => {
        e.preventDefault();
        void done(m);
      }}
    >
      <p className="text-[14px]">{t`${typed.count} rows. Which column is what?`}</p>
      {columns.map(([k, name]) => (
        <label key={k} className="grid grid-cols-[6rem_1fr] items-center gap-2">
          {name}
          <select
            className="field min-h-8 py-0.5"
            value={(m[k] as number | undefined) ?? -1}
            onChange={(e) => {
              const n = Number(e.target.value);
              setM({ ...m, [k]: k === "kind" && n < 0 ? undefined : n });
            }}
          >
            <option value={-1}>{t`none`}</option>
            {typed.header.map((h, i) => (
              <option
                // biome-ignore lint/suspicious/noArrayIndexKey: a column is its place
                key={i}
                value={i}
              >
                {h} ({first[i]})
              </option>
            ))}
          </select>
        </label>
      ))}
      <div className="grid grid-cols-3 gap-2">
        <select
          aria-label={t`Order of the date`}
          className="field min-h-8 py-0.5"
          value={m.dateOrder}
          onChange={(e) => setM({ ...m, dateOrder: e.target.value as typeof m.dateOrder })}
        >
          <option value="ymd">{t`year first`}</option>
          <option value="dmy">{t`day first`}</option>
          <option value="mdy">{t`month first`}</option>
        </select>
        <select
          aria-label={t`Unit of the distance`}
          className="field min-h-8 py-0.5"
          value={m.unit}
          onChange={(e) => setM({ ...m, unit: e.target.value as typeof m.unit })}
        >
          <option value="km">{t`km`}</option>
          <option value="m">{t`metres`}</option>
          <option value="mi">{t`miles`}</option>
        </select>
        <select
          aria-label={t`A plain duration is in`}
          className="field min-h-8 py-0.5"
          value={m.minutes ? "min" : "s"}
          onChange={(e) => setM({ ...m, minutes: e.target.value === "min" })}
        >
          <option value="s">{t`seconds`}</option>
          <option value="min">{t`minutes`}</option>
        </select>
      </div>
      <button type="submit" className="btn min-h-8">
        {t`Look at them`}
      </button>
    </form>
  );
}
