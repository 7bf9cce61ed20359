import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, need, Problem, type Schema } from "../api/client";
import { useMe } from "../api/hooks";
import { Area, Field } from "../parts/field";
import { Failed, Loading, SaveState } from "../parts/states";

type Practice = Schema["Practice"];

/** What every sheet says of the practice: who to reach, and whom to call first. */
export function PracticeView() {
  const p = useQuery({ queryKey: ["practice"], queryFn: () => need(api.GET("/api/practice")) });
  if (p.isPending) return <Loading what="the practice" />;
  if (p.error) return <Failed error={p.error} retry={() => void p.refetch()} />;
  return <Form start={p.data} />;
}

function Form({ start }: { start: Practice }) {
  const me = useMe();
  const qc = useQueryClient();
  const [v, setV] = useState(start);
  const [plate, setPlate] = useState(String(start.plateKg));
  const save = useMutation({
    mutationFn: () =>
      need(api.PUT("/api/practice", { body: { ...v, plateKg: Number(plate.replace(",", ".")) } })),
    onSuccess: (next) => {
      setV(next);
      qc.setQueryData(["practice"], next);
      void qc.invalidateQueries({ queryKey: ["sheet"] });
    },
  });
  const bad = save.error instanceof Problem ? save.error.fields : {};
  const owner = me.data?.role === "owner";
  const set = (part: Partial<Practice>) => setV({ ...v, ...part });
  return (
    <form
      noValidate
      className="max-w-2xl"
      onSubmit={(e) => {
        e.preventDefault();
        save.mutate();
      }}
    >
      <h1>Practice</h1>
      <p className="mt-1 mb-4 text-ink-2">
        This stands on every sheet and beside every alarm.
        {owner ? (
          <>
            {" "}
            <Link to="/practice/access">Who looked at what</Link> is written down.
          </>
        ) : (
          " Only the owner changes it."
        )}
      </p>
      <fieldset disabled={!owner} className="grid gap-4">
        <Field
          label="Name"
          required
          maxLength={120}
          value={v.name}
          error={bad.name}
          onChange={(e) => set({ name: e.target.value })}
        />
        <Field
          label="How runners reach the coach"
          hint="for everything that is not urgent"
          maxLength={300}
          value={v.contact}
          onChange={(e) => set({ contact: e.target.value })}
        />
        <Field
          label="Emergency number"
          hint="whom to call first; never the coach's own number"
          maxLength={40}
          value={v.emergencyNumber}
          error={bad.emergencyNumber}
          onChange={(e) => set({ emergencyNumber: e.target.value })}
        />
        <Area
          label="What stands beside it"
          hint="The nearest hospital, the way there, the ferry at night"
          rows={3}
          maxLength={600}
          value={v.emergencyText}
          onChange={(e) => set({ emergencyText: e.target.value })}
        />
        <Field
          label="Time zone"
          hint="like Europe/Lisbon"
          maxLength={60}
          value={v.zone}
          error={bad.zone}
          onChange={(e) => set({ zone: e.target.value })}
        />
        <Field
          label="Smallest step of weight, kg"
          hint="loads on sheets are rounded down to it"
          inputMode="decimal"
          value={plate}
          error={bad.plateKg}
          onChange={(e) => setPlate(e.target.value)}
        />
        <div className="flex items-center gap-4">
          <button type="submit" className="btn btn-main" disabled={save.isPending}>
            Save
          </button>
          <SaveState error={save.error} saving={save.isPending} />
          {save.isSuccess && <span role="status">Saved.</span>}
        </div>
      </fieldset>
    </form>
  );
}
