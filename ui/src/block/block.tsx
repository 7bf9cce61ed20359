import { useState } from "react";
import { Link, useParams } from "react-router";
import { api, need, type Schema } from "../api/client";
import { useBlock, useBlockChange } from "../api/hooks";
import { dayMonth, plusDays } from "../parts/dates";
import { Choice, painScale } from "../parts/field";
import { useKeys } from "../parts/keys";
import { Title } from "../parts/marks";
import { Empty, Failed, Loading, SaveState } from "../parts/states";
import { LadderRow } from "./ladder";

type Block = Schema["Block"];

export function BlockView() {
  const { id = "" } = useParams();
  const b = useBlock(id);
  useKeys([
    ["← →", "read the notches of a rail"],
    ["Tab", "to the next rail or decision"],
  ]);
  if (b.isPending) return <Loading what="the block" />;
  if (b.error) return <Failed error={b.error} retry={() => void b.refetch()} />;
  if (!b.data)
    return (
      <Empty title="No block yet">
        <p>A block is made from a finished screening.</p>
        <Link className="btn mt-3" to={`/runners/${id}`}>
          To the runner
        </Link>
      </Empty>
    );
  return <Plan b={b.data} />;
}

function Plan({ b }: { b: Block }) {
  return (
    <>
      <div className="mb-4 flex flex-wrap items-end gap-x-5 gap-y-2">
        <h1>
          <Link to={`/runners/${b.runnerId}`} className="hover:underline">
            {b.runnerName}
          </Link>
        </h1>
        <p className="text-ink-2">
          Block, {dayMonth(b.startOn)} to {dayMonth(b.endOn)}
        </p>
        <Link className="btn btn-main ml-auto" to={`/runners/${b.runnerId}/log`}>
          Log a session
        </Link>
      </div>
      <FlagList b={b} />
      <section aria-label="Ladders" className="mb-6">
        <Title aside="a step up waits for you; a step back applies at once">Ladders</Title>
        {b.prescriptions.map((p) => (
          <LadderRow key={p.id} p={p} />
        ))}
      </section>
      <div className="grid gap-x-8 gap-y-6 lg:grid-cols-[minmax(0,1fr)_19rem]">
        <Weeks b={b} />
        <div>
          <Mornings b={b} />
          <Gates b={b} />
        </div>
      </div>
      <Cautions b={b} />
    </>
  );
}

export function FlagList({ b }: { b: Block }) {
  if (b.flags.length === 0) return null;
  return (
    <div role="alert" className="mb-5 border-l-4 border-clay bg-clay-wash p-4">
      {b.flags.map((f) => (
        <p key={`${f.flag}${f.since}${f.side}`}>
          <b>
            ▲ {f.flag}, {f.side ? (f.side === "both" ? "both sides" : f.side) : "both sides"}, since{" "}
            {dayMonth(f.since)}.
          </b>{" "}
          {f.text}
        </p>
      ))}
    </div>
  );
}

export function Cautions({ b }: { b: Block }) {
  return (
    <ul className="mt-6 border-t border-rule pt-3 text-[14px] text-ink-2">
      {b.cautions.map((c) => (
        <li key={c}>{c}</li>
      ))}
    </ul>
  );
}

const names = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"];

/** Weeks down, days across; every day names its doses. */
function Weeks({ b }: { b: Block }) {
  const short = (name: string) =>
    name.replace(", straight knee", "").replace(" stretch", "").replace(" range", "");
  return (
    <section aria-label="Weeks" className="min-w-0">
      <Title aside="hover or focus a dose for both sides">Weeks</Title>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must be reachable by keyboard */}
      <section className="overflow-x-auto" tabIndex={0} aria-label="Weeks and days, scrolls sideways">
        <table className="w-full min-w-[44rem] table-fixed border-collapse text-[13px]">
          <thead>
            <tr>
              <th scope="col" className="w-16 py-1 text-left font-semibold">
                Week
              </th>
              {names.map((n) => (
                <th key={n} scope="col" className="py-1 text-left font-semibold">
                  {n}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {b.weeks.map((w) => (
              <tr key={w.number} className="border-t border-rule align-top">
                <th scope="row" className="py-1 text-left font-semibold">
                  {w.number}
                  {w.label && <span className="block font-normal text-ink-2">{w.label}</span>}
                </th>
                {w.days.map((d) => (
                  <td
                    key={d.on}
                    className={`px-1 py-1 ${d.on === b.today ? "bg-paper outline-2 -outline-offset-2 outline-ink" : ""} ${d.on < b.today && !d.logged ? "text-ink-2" : ""}`}
                  >
                    <span className="flex justify-between text-ink-2">
                      {dayMonth(d.on)}
                      {d.logged && <span className="font-semibold text-pine">done</span>}
                    </span>
                    {d.sessions
                      .flatMap((x) => x.doses)
                      .map((x) => (
                        <span
                          key={x.prescriptionId}
                          className="block truncate"
                          title={
                            x.same ? `${x.name}: ${x.left}` : `${x.name}: left ${x.left}; right ${x.right}`
                          }
                        >
                          {short(x.name)} {x.same ? tail(x.left) : `${tail(x.left)} | ${tail(x.right)}`}
                        </span>
                      ))}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </section>
    </section>
  );
}

/** "3 × 12" of "one leg 3 × 12". */
const tail = (words: string) => words.match(/\d+ × .*$/)?.[0] ?? words;

function Mornings({ b }: { b: Block }) {
  const days = Array.from({ length: 10 }, (_, i) => plusDays(b.today, i - 9));
  const known = new Map(b.mornings.map((m) => [m.on, m]));
  const [on, setOn] = useState(b.today);
  const put = useBlockChange((firstStep: number) =>
    need(
      api.PUT("/api/runners/{id}/mornings/{on}", {
        params: { path: { id: b.runnerId, on } },
        body: { firstStep },
      }),
    ),
  );
  const usual = `usual ${b.baseline}`;
  return (
    <section aria-label="First steps of the morning" className="mb-6">
      <Title aside={usual}>First steps</Title>
      <ul className="mb-3 grid h-24 grid-cols-10 items-end gap-0.5">
        {days.map((d) => {
          const m = known.get(d);
          const v = m?.firstStep;
          return (
            <li key={d} className="h-full">
              <button
                type="button"
                onClick={() => setOn(d)}
                aria-pressed={on === d}
                aria-label={`${dayMonth(d)}: ${v === undefined ? "not known" : `pain ${v}`}`}
                className={`flex h-full w-full flex-col items-center justify-end border-b-2 text-[12px] ${on === d ? "border-ink bg-paper" : "border-rule"}`}
              >
                <span>{v ?? "–"}</span>
                <svg
                  viewBox="0 0 10 60"
                  className="h-14 w-full"
                  preserveAspectRatio="none"
                  aria-hidden="true"
                >
                  <rect
                    x="1"
                    width="8"
                    y={60 - 6 * (v ?? 0)}
                    height={6 * (v ?? 0)}
                    fill={m?.jumped ? "var(--clay)" : "var(--edge)"}
                  />
                </svg>
              </button>
            </li>
          );
        })}
      </ul>
      <Choice
        label={`Pain on ${dayMonth(on)}`}
        compact
        options={painScale}
        value={known.get(on)?.firstStep}
        onChange={(v) => put.mutate(v)}
      />
      <SaveState error={put.error} saving={put.isPending} />
    </section>
  );
}

function Gates({ b }: { b: Block }) {
  const usedGates = new Set(b.prescriptions.flatMap((p) => p.notches.map((n) => n.gate)));
  return (
    <section aria-label="Gates">
      <Title>Gates</Title>
      <ul>
        {b.gates
          .filter((g) => g.open || usedGates.has(g.gate))
          .map((g) => (
            <li key={g.gate} className="border-b border-rule py-1.5 text-[14px]">
              <b>{g.name}</b> <span className={g.open ? "text-pine" : ""}>{g.state}</span>
              {!g.open && <span className="block text-ink-2">needs {g.missing.join("; ")}</span>}
            </li>
          ))}
      </ul>
    </section>
  );
}
