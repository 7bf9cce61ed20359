import { t } from "@lingui/core/macro";
import { Field } from "../../parts/field";

export function Millimetres({
  label,
  value,
  onChange,
  bad,
}: {
  label: string;
  value: number | undefined;
  onChange: (v: number | undefined) => void;
  bad?: string;
}) {
  return (
    <input
      className="field w-16"
      inputMode="numeric"
      aria-label={t`Heel drop, ${label.toLowerCase()}, mm`}
      aria-invalid={!!bad}
      value={value ?? ""}
      onChange={(e) => {
        const text = e.target.value.replace(/\D/g, "");
        onChange(text === "" ? undefined : Number(text));
      }}
    />
  );
}

/** Minutes and seconds a kilometre; what cannot be read is left as it was. */
export function Pace({
  value,
  onChange,
  bad,
}: {
  value: string;
  onChange: (s: number) => void;
  bad?: string;
}) {
  return (
    <Field
      key={value}
      label={t`Easy pace`}
      defaultValue={value}
      placeholder="6:00"
      error={bad}
      aria-label={t`Easy pace, minutes and seconds a kilometre`}
      onBlur={(e) => {
        const seconds = readPace(e.target.value);
        if (seconds !== null) onChange(seconds);
      }}
    />
  );
}

/** "6:05" is 365 s; "6" is 360 s; nothing is 0; anything else is null. */
export function readPace(text: string): number | null {
  const it = text.trim();
  if (it === "") return 0;
  const m = /^(\d{1,2})(?:[:.](\d{2}))?$/.exec(it);
  if (!m?.[1] || Number(m[2] ?? 0) > 59) return null;
  return Number(m[1]) * 60 + Number(m[2] ?? 0);
}
