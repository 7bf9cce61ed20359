import { t } from "@lingui/core/macro";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, need } from "../../api/client";
import { weekDay } from "../../parts/dates";
import { Tick } from "../../parts/tick";
import type { Clip } from "./upload";

/** The photo of the same moment that was taken last, to set this one up in the same way. */
export function useLast(clip: Clip, template: string) {
  const [on, setOn] = useState(false);
  const all = useQuery({
    queryKey: ["last-photo", clip.id],
    queryFn: () => need(api.GET("/api/runners/{id}/clips", { params: { path: { id: clip.runnerId } } })),
    enabled: clip.kind === "photo",
    staleTime: 0, // marks made a moment ago count
    refetchOnMount: "always",
  });
  const found = (all.data?.items ?? []).find(
    (c) =>
      c.id !== clip.id &&
      c.kind === "photo" &&
      c.on <= clip.on &&
      c.marks.view === clip.marks.view &&
      c.marks.moments.some((m) => m.template === template),
  );
  return { clip: found, on, setOn };
}

export type Last = ReturnType<typeof useLast>;

/** Lays last time's photo over this one. */
export function LastTime({ last }: { last: Last }) {
  if (!last.clip) return null;
  return (
    <div className="mt-2">
      <Tick
        label={t`Lay the photo of ${weekDay(last.clip.on)} over it, half through`}
        on={last.on}
        onChange={last.setOn}
      />
    </div>
  );
}
