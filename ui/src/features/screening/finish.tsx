import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, need, type Schema } from "../../api/client";
import { Field } from "../../parts/field";
import { SaveState } from "../../parts/states";
import type { Trials } from "./screening";

export function Correct({
  finished,
  value,
  set,
}: {
  finished: boolean;
  value: string;
  set: (v: string) => void;
}) {
  const [text, setText] = useState("");
  if (!finished) return null;
  if (value)
    return (
      <p className="mb-5 border-l-4 border-ink bg-paper p-3">
        <Trans>
          Correcting: <b>{value}</b>. The earlier readings stay in the record.{" "}
        </Trans>
        <button type="button" className="btn-quiet" onClick={() => set("")}>
          {t`Done correcting`}
        </button>
      </p>
    );
  return (
    <details className="mb-5">
      <summary className="btn-quiet list-none">{t`Correct a reading`}</summary>
      <form
        className="mt-2 flex max-w-xl items-end gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          if (text.trim()) set(text.trim());
        }}
      >
        <Field
          label={t`Why`}
          className="grow"
          value={text}
          onChange={(e) => setText(e.target.value)}
          maxLength={300}
        />
        <button type="submit" className="btn">
          {t`Open the readings`}
        </button>
      </form>
    </details>
  );
}

export function Finish({ screening: s, trials }: { screening: Schema["Screening"]; trials: Trials }) {
  const qc = useQueryClient();
  const finish = useMutation({
    mutationFn: async () => {
      await trials.settled();
      return need(api.POST("/api/screenings/{id}/finish", { params: { path: { id: s.id } } }));
    },
    onSuccess: (done) => {
      qc.setQueryData(["screening", s.id], done);
      void qc.invalidateQueries({ queryKey: ["bench"] });
      void qc.invalidateQueries({ queryKey: ["screenings", s.runnerId] });
    },
  });
  return (
    <div className="mt-6 flex flex-wrap items-center gap-4">
      {s.finished ? (
        <Link id="finish" className="btn btn-main" to={`/runners/${s.runnerId}/plan`}>
          {t`Plan the block`}
        </Link>
      ) : (
        <button
          id="finish"
          type="button"
          className="btn btn-main"
          disabled={finish.isPending}
          onClick={() => finish.mutate()}
        >
          {t`Finish the screening`}
        </button>
      )}
      <Link className="btn" to={`/runners/${s.runnerId}`}>
        {s.finished ? t`To the runner` : t`Leave it open`}
      </Link>
      <SaveState error={finish.error} saving={finish.isPending} />
    </div>
  );
}
