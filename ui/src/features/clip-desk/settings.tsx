import { t } from "@lingui/core/macro";
import { Choice, Field } from "../../parts/field";
import { Title } from "../../parts/marks";
import { kept, shown, unit } from "../../parts/measures";
import { Tick } from "../../parts/tick";
import type { Marks } from "./marks";

export function Settings({
  m,
  set,
  times,
  photo,
}: {
  m: Marks;
  set: (part: Partial<Marks>) => void;
  times: boolean;
  photo: boolean;
}) {
  const number = (text: string) => Number(text.replace(",", ".")) || undefined;
  return (
    <section aria-label={t`How it was filmed`} className="mt-5">
      <Title aside={t`square-on, at hip height, 4 m away or more; perspective is not corrected`}>
        {t`How it was filmed`}
      </Title>
      <div className="flex flex-wrap items-start gap-x-6 gap-y-3">
        <Choice
          label={t`From`}
          compact
          options={[
            { value: "side", label: t`the side` },
            { value: "behind", label: t`behind` },
            { value: "front", label: t`the front` },
            { value: "above", label: t`above` },
          ]}
          value={m.view}
          onChange={(view) => set({ view })}
        />
        <Tick
          label={t`The runner runs to the left`}
          on={!!m.picture.runsLeft}
          onChange={(runsLeft) => set({ picture: { ...m.picture, runsLeft: runsLeft || undefined } })}
        />
        {m.view === "side" && (
          <Choice
            label={t`Nearest the camera`}
            compact
            options={[
              { value: "", label: t`as it looks` },
              { value: "left", label: t`left` },
              { value: "right", label: t`right` },
            ]}
            value={m.near ?? ""}
            onChange={(near) => set({ near: near || undefined })}
          />
        )}
        {!photo && (
          <>
            <Field
              label={t`Slowed down`}
              className="w-28"
              hint={t`filmed 240, plays 30: 8`}
              inputMode="decimal"
              value={m.slow ?? 1}
              onChange={(e) => set({ slow: number(e.target.value) })}
            />
            {!times && (
              <Field
                label={t`Frames a second`}
                className="w-32"
                hint={t`the file's own are not known here`}
                inputMode="decimal"
                value={m.rate ?? ""}
                placeholder="30"
                onChange={(e) => set({ rate: number(e.target.value) })}
              />
            )}
            <Field
              label={t`Speed, ${unit("km/h")}`}
              className="w-28"
              inputMode="decimal"
              value={shown("km/h", m.speedKmh)}
              onChange={(e) =>
                set({ speedKmh: ((n) => (n === undefined ? n : kept("km/h", n)))(number(e.target.value)) })
              }
            />
            <Field
              label={t`Incline, %`}
              className="w-28"
              inputMode="decimal"
              value={m.inclinePercent ?? ""}
              onChange={(e) => set({ inclinePercent: number(e.target.value) })}
            />
            <Field
              label={t`Footwear`}
              className="w-40"
              maxLength={40}
              value={m.footwear ?? ""}
              onChange={(e) => set({ footwear: e.target.value || undefined })}
            />
          </>
        )}
      </div>
    </section>
  );
}
