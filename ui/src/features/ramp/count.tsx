import { useState } from "react";
import { api, freshKey, need, Problem } from "../../api/client";
import { dayMonth } from "../../parts/dates";
import { Choice, Field } from "../../parts/field";
import { SaveState } from "../../parts/states";
import { useRampChange, type View } from "./hooks";

/** Counts of both feet without a beat; three or more make a margin. */
export function CountAgain({ id, v }: { id: string; v: View }) {
  const [text, setText] = useState("");
  const [seconds, setSeconds] = useState(15);
  const [key, setKey] = useState(freshKey);
  const add = useRampChange(id, (counts: number[]) =>
    need(
      api.POST("/api/runners/{id}/recounts", {
        params: { path: { id }, header: { "Idempotency-Key": key } },
        body: { on: v.today, counts, windowSeconds: seconds },
      }),
    ),
  );
  const counts = readCounts(text);
  const bad = add.error instanceof Problem ? Object.values(add.error.fields)[0] : undefined;
  return (
    <form
      className="mt-4 flex flex-wrap items-end gap-3"
      onSubmit={(e) => {
        e.preventDefault();
        if (counts)
          add.mutate(counts, {
            onSuccess: () => {
              setText("");
              setKey(freshKey());
            },
            onError: () => setKey(freshKey()),
          });
      }}
    >
      <Field
        label="Count again, without the beat"
        className="w-72"
        placeholder="41 42 41 41"
        value={text}
        inputMode="numeric"
        hint="steps of both feet, one number a window"
        error={text && !counts ? "whole numbers with spaces between, like 41 42 41" : bad}
        onChange={(e) => setText(e.target.value)}
      />
      <Choice
        label="Window"
        compact
        options={[15, 30, 60].map((n) => ({ value: n, label: `${n} s` }))}
        value={seconds}
        onChange={setSeconds}
      />
      <button type="submit" className="btn" disabled={!counts || add.isPending}>
        Keep the count
      </button>
      <SaveState error={bad ? null : add.error} saving={add.isPending} />
      {v.cadence.recounts.length > 0 && (
        <p className="w-full text-[14px] text-ink-2">
          So far:{" "}
          {v.cadence.recounts
            .map(
              (r) =>
                `${dayMonth(r.on)} ${Math.round(r.meanSpm * 10) / 10}${r.marginSpm !== undefined ? ` ± ${Math.round(r.marginSpm * 10) / 10}` : ""}`,
            )
            .join(", ")}
        </p>
      )}
    </form>
  );
}

/** "41 42, 41" is [41, 42, 41]; anything but whole numbers is null. */
export function readCounts(text: string): number[] | null {
  const parts = text.split(/[\s,;]+/).filter(Boolean);
  if (parts.length === 0 || parts.length > 20 || parts.some((p) => !/^\d{1,3}$/.test(p))) return null;
  return parts.map(Number);
}
