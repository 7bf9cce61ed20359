import { t } from "@lingui/core/macro";
import { useRef, useState } from "react";
import { api, need, Problem } from "../../api/client";
import { weekDay } from "../../parts/dates";
import { painScale } from "../../parts/field";
import { Title } from "../../parts/marks";
import { distance, km, unit } from "../../parts/measures";
import { Sideways } from "../../parts/sideways";
import { SaveState } from "../../parts/states";
import { Tick } from "../../parts/tick";
import { Why } from "../../parts/why";
import { type Run, type RunInput, useRunChange, useZones } from "./hooks";

const select = "field min-h-8 px-1.5 py-0.5";

export function RunTable({ id, runs }: { id: string; runs: readonly Run[] }) {
  const [many, setMany] = useState(12);
  if (runs.length === 0)
    return (
      <section aria-label={t`Runs`}>
        <Title>{t`Runs`}</Title>
        <p className="text-ink-2">{t`No run yet. Drop files from a watch, or type one.`}</p>
      </section>
    );
  return (
    <section aria-label={t`Runs`}>
      <Title aside={t`every change is saved at once`}>{t`Runs`}</Title>
      <Sideways label={t`Runs`}>
        <table className="w-full min-w-[46rem] border-collapse text-[14px]">
          <thead>
            <tr className="text-left text-ink-2">
              {[
                t`Day`,
                unit("km"),
                "min",
                "spm",
                t`Effort`,
                t`Pain`,
                t`Where`,
                t`Limping`,
                t`Shoes`,
                t`Strike`,
                "",
              ].map((h) => (
                <th key={h} scope="col" className="py-1 pr-2 font-normal">
                  {h || <span className="sr-only">{t`take out`}</span>}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {runs.slice(0, many).map((r) => (
              <RunRow key={r.id} id={id} r={r} />
            ))}
          </tbody>
        </table>
      </Sideways>
      {runs.length > many && (
        <button type="button" className="btn-quiet mt-2" onClick={() => setMany(runs.length)}>
          {t`Show all ${runs.length}`}
        </button>
      )}
    </section>
  );
}

function RunRow({ id, r }: { id: string; r: Run }) {
  const zones = useZones();
  // Two fields may be filled faster than the list is read again: the second goes
  // on from what the first one was answered.
  const newest = useRef(r);
  if (r.rev > newest.current.rev) newest.current = r;
  const scope = `run/${r.id}`;
  const put = useRunChange(
    id,
    async (part: Partial<RunInput>) => {
      const { id: run, rev, source: _s, hasTrack: _t, what: _w, details: _d, ...was } = newest.current;
      newest.current = await need(
        api.PUT("/api/runs/{id}", {
          params: { path: { id: run }, query: { rev } },
          body: { ...was, ...part },
        }),
      );
    },
    scope,
  );
  const out = useRunChange(
    id,
    (reason: string) =>
      need(
        api.DELETE("/api/runs/{id}", {
          params: { path: { id: r.id }, query: { rev: newest.current.rev, reason } },
        }),
      ),
    scope,
  );
  const [taking, setTaking] = useState(false);
  const fields = put.error instanceof Problem ? put.error.fields : {};
  const name = weekDay(r.on);
  return (
    <tr className="border-t border-rule">
      <th scope="row" className="py-1 pr-2 text-left font-normal whitespace-nowrap">
        {name} {r.startedAt && <span className="text-ink-2">{r.startedAt}</span>}
        <span className="block text-[12px] text-ink-2">
          {r.what === "walk" ? t`walk, counts in nothing · ` : ""}
          {r.source === "typed" ? t`typed` : r.source.toUpperCase()}
          {r.details?.sources?.at(-1)?.device ? ` · ${r.details.sources.at(-1)?.device}` : ""}
          {(r.details?.sources?.length ?? 0) > 1 ? t` · ${r.details?.sources?.length ?? ""} sources` : ""}
        </span>
        <Recorded r={r} />
      </th>
      <td className="pr-2 text-right font-semibold">{km(r.km * 1000)}</td>
      <td className="pr-2 text-right">{Math.round(r.minutes)}</td>
      <td className="pr-2 text-right">{r.cadence ? Math.round(r.cadence) : "–"}</td>
      <td className="pr-2">
        <Scale label={t`${name}: effort`} value={r.effort} onChange={(effort) => put.mutate({ effort })} />
      </td>
      <td className="pr-2">
        <Scale label={t`${name}: pain`} value={r.pain} onChange={(pain) => put.mutate({ pain })} />
      </td>
      <td className="pr-2">
        <select
          className={`${select} max-w-32`}
          aria-label={t`${name}: where it hurt`}
          value={`${r.zone ?? ""}/${r.side ?? ""}`}
          disabled={!r.pain}
          onChange={(e) => {
            const [zone, side] = e.target.value.split("/");
            put.mutate({ zone: zone || undefined, side: (side || undefined) as RunInput["side"] });
          }}
        >
          <option value="/">–</option>
          {zones.data?.items.flatMap((z) =>
            (["left", "right"] as const).map((s) => (
              <option key={`${z.id}${s}`} value={`${z.id}/${s}`}>
                {z.name}, {s}
              </option>
            )),
          )}
        </select>
      </td>
      <td className="pr-2 text-center">
        <Tick name={`${name}: limping`} on={!!r.limping} onChange={(limping) => put.mutate({ limping })} />
      </td>
      <td className="pr-2">
        <select
          className={select}
          aria-label={t`${name}: shoes`}
          value={r.footwear ?? ""}
          onChange={(e) => put.mutate({ footwear: e.target.value as RunInput["footwear"] })}
        >
          <option value="">–</option>
          <option value="usual">{t`usual`}</option>
          <option value="minimal">{t`minimal`}</option>
          <option value="bare">{t`bare`}</option>
        </select>
      </td>
      <td className="pr-2">
        <select
          className={select}
          aria-label={t`${name}: foot strike`}
          value={r.strike ?? ""}
          onChange={(e) => put.mutate({ strike: e.target.value as RunInput["strike"] })}
        >
          <option value="">–</option>
          <option value="rear">{t`rear`}</option>
          <option value="mid-fore">{t`mid or fore`}</option>
        </select>
      </td>
      <td>
        <button
          type="button"
          className="btn-quiet"
          aria-label={t`take out: ${name}`}
          onClick={() => setTaking(true)}
        >
          {t`Take out`}
        </button>
        {(taking || fields.reason) && (
          <Why
            say={fields.reason ?? t`this takes the run out; say why, for the journal`}
            onSay={(reason) =>
              fields.reason ? put.mutate({ ...put.variables, reason }) : out.mutate(reason)
            }
            onLeave={() => {
              setTaking(false);
              put.reset();
            }}
          />
        )}
        <SaveState error={fields.reason ? null : (put.error ?? out.error)} saving={false} />
      </td>
    </tr>
  );
}

const clock = (s: number) => `${Math.floor(s / 60)}:${String(Math.round(s % 60)).padStart(2, "0")}`;

/** What a device recorded beside the numbers: pauses, climb, heart, feet, laps. */
function Recorded({ r }: { r: Run }) {
  const d = r.details;
  if (!d) return null;
  const laps = d.laps ?? [];
  const pause = d.elapsed ? Math.round(d.elapsed / 60 - r.minutes) : 0;
  const facts = [
    d.name && `“${d.name}”`,
    pause > 0 && t`${pause} min of pauses`,
    d.ascent && t`${Math.round(d.ascent)} m up`,
    d.heartRate && t`heart ${Math.round(d.heartRate)} a minute`,
    d.dynamics?.contactMs && t`${Math.round(d.dynamics.contactMs)} ms on the ground`,
    d.treadmill && "treadmill",
    (d.sources?.length ?? 0) > 1 && t`from ${d.sources?.map((s) => s.file ?? s.kind).join(" and ") ?? ""}`,
  ].filter(Boolean);
  if (facts.length === 0 && laps.length < 2) return null;
  return (
    <details className="text-[12px] text-ink-2">
      <summary className="cursor-pointer">{laps.length > 1 ? t`${laps.length} laps` : t`recorded`}</summary>
      <p className="max-w-56 whitespace-normal">{facts.join(", ")}</p>
      {laps.length > 1 && (
        <ol className="list-decimal pl-5">
          {laps.slice(0, 60).map((l, i) => (
            <li
              // biome-ignore lint/suspicious/noArrayIndexKey: a lap is its place
              key={i}
            >
              {t`${distance(l.metres, 2)}, ${clock(l.seconds)}${l.cadence ? t`, ${Math.round(l.cadence)} spm` : ""}${l.rest ? t`, rest` : ""}`}
            </li>
          ))}
        </ol>
      )}
    </details>
  );
}

/** Nought to ten, or not said. */
function Scale({
  label,
  value,
  onChange,
}: {
  label: string;
  value: number | undefined;
  onChange: (v: number | undefined) => void;
}) {
  return (
    <select
      className={select}
      aria-label={label}
      value={value ?? ""}
      onChange={(e) => onChange(e.target.value === "" ? undefined : Number(e.target.value))}
    >
      <option value="">–</option>
      {painScale.map((p) => (
        <option key={p.value}>{p.value}</option>
      ))}
    </select>
  );
}
