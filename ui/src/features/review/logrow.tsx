import { t } from "@lingui/core/macro";
import { Choice, painScale } from "../../parts/field";
import { SideName } from "../../parts/marks";
import { Tick } from "../../parts/tick";
import type { Block, Line, Row } from "./model";
import { NotNow, Seen, said } from "./seen";

/** What is asked of one ladder and side. */
export function LogRow({
  b,
  row: { p, side },
  l,
  set,
  bad,
}: {
  b: Block;
  row: Row;
  l: Line;
  set: (part: Line) => void;
  bad: (field: string) => string | undefined;
}) {
  const notch = p.pegs.find((g) => side === "both" || g.side === side);
  const name = `${p.name}, ${side}`;
  return (
    <div className="flex flex-wrap items-start gap-x-6 gap-y-2 border-b border-rule px-3 py-2.5">
      <div className="w-full lg:w-52">
        <SideName side={side} />
        <p className="text-[14px]">{notch && p.notches[notch.notch - 1]?.words}</p>
        <NotNow p={p} side={side} />
        <Tick
          className="flex items-center gap-2 text-[14px] text-ink-2"
          label={t`not on this day`}
          name={`${name}: not on this day`}
          on={!!l.skipped}
          onChange={(skipped) => set({ skipped })}
        />
        {!l.skipped && p.purpose !== "release" && (
          <label className="mt-1 flex items-center gap-2 text-[14px] text-ink-2">
            {t`cramp at rep`}
            <input
              className="field min-h-7 w-16 px-1.5 py-0"
              inputMode="numeric"
              aria-label={t`${name}: cramp at repetition`}
              aria-invalid={!!bad("crampAt")}
              value={l.cramp ?? ""}
              placeholder={t`none`}
              onChange={(e) => set({ cramp: e.target.value.replace(/\D/g, "") })}
            />
          </label>
        )}
      </div>
      {!l.skipped && (
        <>
          {p.purpose === "release" ? (
            <Group title={t`Worst sore spot after a hold`}>
              <Choice
                label={t`${name}: worst sore spot after a hold, 0 to 10`}
                hideLabel
                compact
                options={painScale}
                value={l.sore}
                onChange={(sore) => set({ sore })}
                error={bad("soreSpot")}
              />
              <Tick
                className="mt-1 flex items-center gap-2 text-[14px]"
                label={t`tired soles or night sweats after`}
                on={!!l.reacted}
                onChange={(reacted) => set({ reacted })}
              />
            </Group>
          ) : (
            <Group title={t`Worst pain during`}>
              <Choice
                label={t`${name}: worst pain during, 0 to 10`}
                hideLabel
                compact
                options={painScale}
                value={l.pain}
                onChange={(pain) => set({ pain })}
                error={bad("pain")}
              />
            </Group>
          )}
          <Group title={t`Done`}>
            <Choice
              label={t`${name}: done`}
              hideLabel
              compact
              options={said(b.choices.done)}
              value={l.done}
              onChange={(done) => set({ done })}
            />
            {l.done !== undefined && l.done < 1 && (
              <Tick
                className="mt-1 flex items-center gap-2 text-[14px]"
                label={t`short of time`}
                on={!!l.noTime}
                onChange={(noTime) => set({ noTime })}
              />
            )}
          </Group>
          <Group title={t`Compensated`}>
            <Choice
              label={t`${name}: repetitions with a compensation`}
              hideLabel
              compact
              options={said(b.choices.compensated)}
              value={l.clean}
              onChange={(clean) => set({ clean })}
            />
          </Group>
          <Seen p={p} side={side} l={l} set={set} name={name} />
          {p.effort === "twenty" && (
            <Group title={t`Sure of 20 % more`}>
              <Choice
                label={t`${name}: sure of 20 % more`}
                hideLabel
                compact
                options={[
                  { value: 1, label: t`yes` },
                  { value: 0, label: t`no` },
                ]}
                value={l.sure}
                onChange={(sure) => set({ sure })}
              />
            </Group>
          )}
          {p.effort === "reserve" && (
            <Group title={t`Reps left in reserve`}>
              <Choice
                label={t`${name}: repetitions left in reserve`}
                hideLabel
                compact
                options={b.choices.reserve.map((c) => ({ value: c.value, label: c.words }))}
                value={l.reserve}
                onChange={(reserve) => set({ reserve })}
              />
            </Group>
          )}
        </>
      )}
    </div>
  );
}

function Group({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <div>
      <p aria-hidden="true" className="mb-0.5 text-[13px] text-ink-2">
        {title}
      </p>
      {children}
    </div>
  );
}
