import { useState } from "react";
import type { Schema } from "../../api/client";

export const columns: [keyof Schema["Mapping"] & string, string][] = [
  ["date", "Date"],
  ["time", "Time of day"],
  ["distance", "Distance"],
  ["duration", "Duration"],
  ["cadence", "Cadence"],
  ["effort", "Effort"],
  ["footwear", "Shoes"],
  ["surface", "Surface"],
  ["note", "Note"],
  ["kind", "What it was"],
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
      aria-label="Map the columns"
      className="mt-2 grid gap-2 border-l-4 border-ink bg-paper p-3"
      onSubmit={(e) => {
        e.preventDefault();
        void done(m);
      }}
    >
      <p className="text-[14px]">{typed.count} rows. Which column is what?</p>
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
            <option value={-1}>none</option>
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
          aria-label="Order of the date"
          className="field min-h-8 py-0.5"
          value={m.dateOrder}
          onChange={(e) => setM({ ...m, dateOrder: e.target.value as typeof m.dateOrder })}
        >
          <option value="ymd">year first</option>
          <option value="dmy">day first</option>
          <option value="mdy">month first</option>
        </select>
        <select
          aria-label="Unit of the distance"
          className="field min-h-8 py-0.5"
          value={m.unit}
          onChange={(e) => setM({ ...m, unit: e.target.value as typeof m.unit })}
        >
          <option value="km">km</option>
          <option value="m">metres</option>
          <option value="mi">miles</option>
        </select>
        <select
          aria-label="A plain duration is in"
          className="field min-h-8 py-0.5"
          value={m.minutes ? "min" : "s"}
          onChange={(e) => setM({ ...m, minutes: e.target.value === "min" })}
        >
          <option value="s">seconds</option>
          <option value="min">minutes</option>
        </select>
      </div>
      <button type="submit" className="btn min-h-8">
        Look at them
      </button>
    </form>
  );
}
