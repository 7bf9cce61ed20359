import { t } from "@lingui/core/macro";
import { Field } from "../../parts/field";
import { Tick } from "../../parts/tick";
import type { Entry } from "./trials";

/** A tick among the cells of a station, where Enter ticks too. */
export function Seen({ label, on, set }: { label: string; on: boolean; set: (on: boolean) => void }) {
  return (
    <Tick
      className="flex min-h-8 items-center gap-2"
      label={label}
      on={on}
      onChange={set}
      onKeyDown={(e) => {
        if (e.key === "Enter") set(!on);
      }}
    />
  );
}

export function BlockEntry({ entry: e, change }: { entry: Entry; change: (p: Partial<Entry>) => void }) {
  const b = e.block;
  if (!b)
    return (
      <button
        type="button"
        className="btn-quiet mt-2 text-[14px]"
        onClick={() => change({ text: "", block: { height: "", length: "", floor: false } })}
      >
        {t`Measured with a block instead`}
      </button>
    );
  const set = (p: Partial<typeof b>) => change({ block: { ...b, ...p } });
  return (
    <div className="mt-3 grid grid-cols-2 gap-2 border-t border-rule pt-3">
      <Field
        label={t`Block, cm`}
        inputMode="decimal"
        value={b.height}
        onChange={(x) => set({ height: x.target.value })}
      />
      <Field
        label={t`Toe, cm`}
        inputMode="decimal"
        value={b.length}
        onChange={(x) => set({ length: x.target.value })}
      />
      <div className="col-span-2">
        <Seen label={t`length taken along the floor`} on={b.floor} set={(floor) => set({ floor })} />
        <button type="button" className="btn-quiet text-[14px]" onClick={() => change({ block: undefined })}>
          {t`Type degrees instead`}
        </button>
      </div>
    </div>
  );
}
