import { t } from "@lingui/core/macro";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, need, Problem, type Schema } from "../../api/client";
import { Field } from "../../parts/field";
import { shown, unit } from "../../parts/measures";
import { readNumber } from "../../parts/numbers";
import { SaveState } from "../../parts/states";

type Screening = Schema["Screening"];
const numbers = {
  speedKmh: "km/h",
  inclinePercent: "%",
  warmMinutes: "min",
  legLeftCm: "cm",
  legRightCm: "cm",
} as const;
type Key = keyof typeof numbers;

/** How the run, or the reaches, were taken; saved when a field is left. */
export function ConditionsRow({
  s,
  station,
  locked,
  reason,
}: {
  s: Screening;
  station: string;
  locked: boolean;
  reason: string;
}) {
  const qc = useQueryClient();
  const c = s.conditions;
  const [v, set] = useState<Record<string, string>>({
    speedKmh: shown("km/h", c.speedKmh),
    inclinePercent: c.inclinePercent?.toString() ?? "",
    warmMinutes: c.warmMinutes?.toString() ?? "",
    legLeftCm: c.legLeftCm?.toString() ?? "",
    legRightCm: c.legRightCm?.toString() ?? "",
    surface: c.surface ?? "",
    shoes: c.shoes ?? "",
  });
  const read = Object.fromEntries(
    (Object.keys(numbers) as Key[]).map((k) => [k, readNumber(v[k] ?? "", numbers[k], "10")]),
  );
  const save = useMutation({
    mutationFn: () =>
      need(
        api.PUT("/api/screenings/{id}/conditions", {
          params: {
            path: { id: s.id },
            query: { rev: s.revisions.conditions ?? 0, reason: reason || undefined },
          },
          body: {
            ...Object.fromEntries((Object.keys(numbers) as Key[]).map((k) => [k, read[k]?.value])),
            surface: v.surface || undefined,
            shoes: v.shoes || undefined,
          },
        }),
      ),
    onSuccess: (next) => qc.setQueryData(["screening", s.id], next),
  });
  const bad = save.error instanceof Problem ? save.error.fields : {};
  const field = (k: string, label: string, numeric = true) => (
    <Field
      label={label}
      inputMode={numeric ? "decimal" : undefined}
      disabled={locked}
      value={v[k] ?? ""}
      error={(numeric ? read[k]?.error : undefined) ?? bad[k]}
      onChange={(e) => set({ ...v, [k]: e.target.value })}
      onBlur={() => {
        const is = (c as Record<string, unknown>)[k];
        const was = k === "speedKmh" ? shown("km/h", c.speedKmh) : is;
        if (String(was ?? "") !== (v[k] ?? "").trim() && !Object.values(read).some((x) => x.error))
          save.mutate();
      }}
    />
  );
  return (
    <div className="border-b border-rule py-3">
      <div className="grid grid-cols-2 gap-3 md:grid-cols-5">
        {station === "Run" ? (
          <>
            {field("speedKmh", t`Speed, ${unit("km/h")}`)}
            {field("inclinePercent", t`Incline, %`)}
            {field("warmMinutes", t`Warm, minutes`)}
            {field("surface", t`Surface`, false)}
            {field("shoes", t`Shoes`, false)}
          </>
        ) : (
          <>
            {field("legLeftCm", t`Leg length left, cm`)}
            {field("legRightCm", t`Leg length right, cm`)}
            <p className="col-span-2 self-end text-[14px] text-ink-2 md:col-span-3">
              {s.reach
                .map((r) => t`${r.side}: composite ${r.compositePercent.toFixed(0)} % of leg length`)
                .join(" · ") ||
                t`With leg lengths and all four directions the composite appears here; it has no norm.`}
            </p>
          </>
        )}
      </div>
      <SaveState error={save.error} saving={false} />
    </div>
  );
}
