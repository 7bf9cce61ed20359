import { t } from "@lingui/core/macro";
import type { Schema } from "../../api/client";
import { weekDay } from "../../parts/dates";
import type { Block } from "./change";
import { Chip, type Held, movable, short } from "./chip";
import type { Look } from "./weeks";

export function Cell({
  d,
  b,
  chosen,
  held,
  look,
  onDay,
  over,
  drop,
  cancel,
}: {
  d: Schema["DayView"];
  b: Block;
  chosen: boolean;
  held: Held | null;
  look: Look | null;
  onDay: (on: string) => void;
  over: (h: Held) => void;
  drop: () => void;
  cancel: () => void;
}) {
  const target = held && held.to === d.on && held.to !== held.from;
  const edge = target
    ? look?.broken.length
      ? "outline-3 -outline-offset-3 outline-clay"
      : "outline-3 -outline-offset-3 outline-pine"
    : chosen
      ? "bg-paper outline-2 -outline-offset-2 outline-ink"
      : "";
  const past = d.on < b.today;
  const ran = d.race ? "race" : d.in ? (d.runs ?? "") : "";
  return (
    <td data-day={d.on} className={`border-l border-rule px-1 pt-1 pb-2 ${edge}`}>
      <button
        type="button"
        className="flex min-h-6 w-full items-baseline justify-between gap-1 text-left text-ink-2 hover:underline"
        aria-label={t`${Number(d.on.slice(8))}${d.on === b.today ? t` today` : ""} ${ran}: show ${weekDay(d.on)}`}
        aria-pressed={chosen}
        onClick={() => onDay(d.on)}
      >
        <span className={d.on === b.today ? "font-bold text-ink" : ""}>
          {Number(d.on.slice(8))}
          {d.on === b.today && t` today`}
        </span>{" "}
        <span className={d.race ? "font-bold text-ink" : ""}>{ran}</span>
      </button>
      {d.logged && (
        <p className="border-l-[3px] border-pine bg-pine-wash px-1.5 font-semibold text-pine">{t`done`}</p>
      )}
      {!d.logged &&
        d.sessions.map((s) => (
          <Chip
            key={s.kind + (s.routine?.id ?? "")}
            s={s}
            on={d.on}
            can={movable(d.on, b)}
            past={past}
            lifted={held?.kind === s.kind && held.routine === s.routine?.id && held.from === d.on}
            b={b}
            onDay={onDay}
            over={over}
            drop={drop}
            cancel={cancel}
          />
        ))}
      {d.ramp.length > 0 && (
        <p
          className="mt-0.5 border-l-[3px] border-pine px-1.5 text-[13px]"
          title={d.ramp.map((x) => x.words).join("\n")}
        >
          {d.ramp.every((x) => x.stage === "home")
            ? t`home ${d.ramp[0]?.minutes ?? ""}′`
            : d.ramp
                .filter((x) => x.stage !== "home")
                .map((x) => short[x.stage])
                .join(", ")}
        </p>
      )}
      {d.retest && (
        <p
          className="mt-0.5 border-l-[3px] border-ink px-1.5 font-semibold"
          title={t`Test again: ${d.retest}`}
        >
          {t`test again`}
        </p>
      )}
      {target && held && (
        <p className="mt-0.5 border-[1.5px] border-dashed border-ink px-1.5">{t`${held.name} here`}</p>
      )}
    </td>
  );
}
