import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { api, need, Problem, type Schema } from "../../api/client";

/** Takes in a runner's bundle: all of it or nothing. */
export function Bring() {
  const go = useNavigate();
  const qc = useQueryClient();
  const bring = useMutation({
    mutationFn: async (file: File) => {
      let body: Schema["Bundle"];
      try {
        body = JSON.parse(await file.text()) as Schema["Bundle"];
      } catch {
        throw new Error(`${file.name} is not a runner's bundle: it is not JSON. Nothing was changed.`);
      }
      return need(api.POST("/api/bundles", { body }));
    },
    onSuccess: (r) => {
      void qc.invalidateQueries({ queryKey: ["bench"] });
      go(`/runners/${r.id}`);
    },
  });
  const why =
    bring.error instanceof Problem
      ? (Object.entries(bring.error.fields).map(([k, v]) => `${k}: ${v}`)[0] ?? bring.error.message)
      : bring.error?.message;
  return (
    <>
      <label className="btn has-focus-visible:outline-3 has-focus-visible:outline-offset-2 has-focus-visible:outline-ink">
        Bring a runner
        <input
          type="file"
          accept="application/json,.json"
          className="sr-only"
          aria-label="Bring a runner from a bundle file"
          onChange={(e) => {
            const file = e.target.files?.[0];
            e.target.value = "";
            if (file) bring.mutate(file);
          }}
        />
      </label>
      {bring.isPending && (
        <p role="status" className="w-full text-ink-2">
          Bringing the runner in…
        </p>
      )}
      {why && (
        <p role="alert" className="w-full text-clay">
          <span aria-hidden="true">▲ </span>
          {why}
        </p>
      )}
    </>
  );
}
