import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, need, Problem, type Schema } from "../../api/client";
import { useKeepBlock } from "../../api/hooks";

export type Block = Schema["Block"];
export type Change = Omit<Schema["ChangeInput"], "revision" | "preview" | "insist">;

/** Asks what a change would do; stores nothing. */
export const lookAhead = (b: Block, c: Change) =>
  need(
    api.POST("/api/blocks/{id}/changes", {
      params: { path: { id: b.id } },
      body: { ...c, revision: b.revision, preview: true },
    }),
  );

/** Makes a change; with a reason it is insisted on where a rule breaks. */
export function useChange(b: Block) {
  const keep = useKeepBlock();
  const qc = useQueryClient();
  return useMutation({
    mutationFn: (c: Change) =>
      need(
        api.POST("/api/blocks/{id}/changes", {
          params: { path: { id: b.id } },
          body: { ...c, revision: b.revision, insist: !!c.reason },
        }),
      ),
    onSuccess: (out) => {
      if (out.block) keep(out.block);
    },
    onError: (e) => {
      // Somebody else changed the block: show what it is now, the form stays.
      if (e instanceof Problem && e.status === 409)
        void qc.invalidateQueries({ queryKey: ["block", b.runnerId] });
    },
  });
}
