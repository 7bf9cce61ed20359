import { t } from "@lingui/core/macro";
import { useState } from "react";
import { Field } from "../../parts/field";

export function Labelled({ text, children }: { text: string; children: React.ReactNode }) {
  return (
    <div>
      <p aria-hidden="true" className="text-[13px] text-ink-2">
        {text}
      </p>
      {children}
    </div>
  );
}

export function Minutes({
  value,
  onChange,
}: {
  value: number | undefined;
  onChange: (v: number | undefined) => void;
}) {
  const [text, setText] = useState(value === undefined ? "" : String(value));
  return (
    <Field
      label={t`Minutes without shoes`}
      className="w-44"
      inputMode="numeric"
      value={text}
      onChange={(e) => setText(e.target.value)}
      onBlur={() => {
        const n = text.trim() === "" ? undefined : Number(text);
        if (n !== value && !Number.isNaN(n)) onChange(n);
      }}
    />
  );
}
