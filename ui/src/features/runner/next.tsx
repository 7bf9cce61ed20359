import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, freshKey, need, type Schema } from "../../api/client";
import { SaveState } from "../../parts/states";

/** The one obvious next step of this runner. */
export function Next({
  id,
  open,
  latest,
  hasBlock,
}: {
  id: string;
  open: Schema["Screening"] | undefined;
  latest: Schema["Screening"] | undefined;
  hasBlock: boolean;
}) {
  const go = useNavigate();
  const qc = useQueryClient();
  const [key] = useState(freshKey);
  const start = useMutation({
    mutationFn: () =>
      need(
        api.POST("/api/runners/{id}/screenings", {
          body: { footwear: "barefoot" },
          params: { path: { id }, header: { "Idempotency-Key": key } },
        }),
      ),
    onSuccess: (s) => {
      void qc.invalidateQueries({ queryKey: ["screenings", id] });
      void qc.invalidateQueries({ queryKey: ["bench"] });
      go(`/screenings/${s.id}`);
    },
  });
  const screen = (main: boolean) => (
    <button
      type="button"
      className={`btn ${main ? "btn-main" : ""}`}
      disabled={start.isPending}
      onClick={() => start.mutate()}
    >
      {latest ? "Screen again" : "Start the screening"}
    </button>
  );
  return (
    <div className="mb-5 flex flex-wrap items-center gap-3">
      {open ? (
        <Link className="btn btn-main" to={`/screenings/${open.id}`}>
          Go on with the screening
        </Link>
      ) : hasBlock ? (
        <>
          <Link className="btn btn-main" to={`/runners/${id}/log`}>
            Log a session
          </Link>
          {screen(false)}
        </>
      ) : latest ? (
        <>
          <Link className="btn btn-main" to={`/runners/${id}/plan`}>
            Plan the block
          </Link>
          <Link className="btn" to={`/screenings/${latest.id}`}>
            Look at the findings
          </Link>
          {screen(false)}
        </>
      ) : (
        screen(true)
      )}
      <SaveState error={start.error} saving={start.isPending} />
    </div>
  );
}
