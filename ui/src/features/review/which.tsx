import { t } from "@lingui/core/macro";
import { Choice, Field } from "../../parts/field";
import { SideName } from "../../parts/marks";
import type { Block, Typed } from "./model";

type Type = (part: Partial<Typed>) => void;

/** Which session it was: the plan's, or a routine that was given. */
export function Which({ b, on, v, type }: { b: Block; on: string; v: Typed; type: Type }) {
  if (b.routines.length === 0) return null;
  const day = b.weeks.flatMap((w) => w.days).find((d) => d.on === on);
  const stands = new Set((day?.sessions ?? []).map((s) => s.routine?.id));
  return (
    <div className="mb-4">
      <Choice<string>
        label={t`Which session`}
        options={[
          { value: "", label: t`The plan's` },
          ...b.routines.map((r) => ({
            value: r.id,
            label: `${r.name}${stands.has(r.id) ? t`, today` : ""}`,
          })),
        ]}
        value={v.routine ?? ""}
        onChange={(routine) => type({ routine })}
      />
    </div>
  );
}

/** What a routine asks beside its parts. */
export function RoutineAsks({
  r,
  v,
  type,
  bad,
}: {
  r: Block["routines"][number];
  v: Typed;
  type: Type;
  bad: Record<string, string>;
}) {
  const wrong = Object.entries(bad).find(([k]) => k.startsWith("compared"))?.[1];
  return (
    <>
      {r.compare === "cm" && (
        <fieldset>
          <legend className="mb-1 font-semibold">{t`${r.compared ?? ""}, cm`}</legend>
          <div className="flex flex-wrap gap-x-8 gap-y-2">
            {(["left", "right"] as const).map((side) => (
              <div key={side} className="flex items-end gap-3">
                <span className="pb-2">
                  <SideName side={side} />
                </span>
                {(["before", "after"] as const).map((when) => (
                  <Field
                    key={when}
                    label={when}
                    aria-label={`${r.compared}, ${side}, ${when}`}
                    inputMode="decimal"
                    className="w-24"
                    value={v[when]?.[side] ?? ""}
                    onChange={(e) => type({ [when]: { ...v[when], [side]: e.target.value } })}
                  />
                ))}
              </div>
            ))}
          </div>
          {wrong && (
            <p role="alert" className="text-clay">
              ▲ {wrong}
            </p>
          )}
        </fieldset>
      )}
      {r.felt && (
        <Choice
          label={t`Where was it felt most?`}
          options={(["foot", "calf", "shin", "thigh", "seat"] as const).map((x) => ({ value: x, label: x }))}
          value={v.felt}
          onChange={(felt) => type({ felt })}
        />
      )}
      {r.late && <p>{r.late}</p>}
    </>
  );
}
