import { t } from "@lingui/core/macro";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, need } from "../../api/client";
import { useScreening } from "../../api/hooks";
import { SaveState } from "../../parts/states";
import { digits, type Judged, origin, type Screening, type Shot } from "./readings";
import type { Clip } from "./upload";

const slots = 5;

/** The trials of a reading's test and side. */
const taken = (s: Screening | undefined, j: Judged) =>
  (s?.trials ?? []).filter((time) => time.test === j.test && time.side === j.side);

/** The first trial that is free for a reading, undefined where all are taken. */
const freeSlot = (s: Screening | undefined, j: Judged) =>
  Array.from({ length: slots }, (_, k) => k + 1).find((k) => !taken(s, j).some((time) => time.slot === k));

/** Whether a reading stands in the screening already. */
export const isIn = (s: Screening | undefined, j: Judged) =>
  taken(s, j).some((time) => time.value === Number(digits(j)));

/** Puts readings into the screening's tests, each with where it comes from and the picture. */
export function useSend(clip: Clip, shot?: Shot) {
  const qc = useQueryClient();
  return useMutation({
    mutationFn: async (list: readonly Judged[]) => {
      const picture = await shot?.current?.(1280);
      let s = qc.getQueryData<Screening>(["screening", clip.screeningId]);
      let left = 0;
      for (const j of list) {
        const slot = freeSlot(s, j);
        if (!slot || !j.test || isIn(s, j)) {
          if (!isIn(s, j)) left++;
          continue;
        }
        s = await need(
          api.PUT("/api/screenings/{id}/trials/{test}/{side}/{slot}", {
            params: { path: { id: clip.screeningId, test: j.test, side: j.side, slot } },
            body: { value: Number(digits(j)) },
          }),
        );
        qc.setQueryData(["screening", clip.screeningId], s);
        await origin(clip.screeningId, j, slot, picture);
      }
      return left;
    },
    onSettled: () => void qc.invalidateQueries({ queryKey: ["origins", clip.screeningId] }),
  });
}

export function Send({ j, clip, shot }: { j: Judged; clip: Clip; shot?: Shot }) {
  const s = useScreening(clip.screeningId);
  const put = useSend(clip, shot);
  const free = freeSlot(s.data, j);
  if (isIn(s.data, j))
    return (
      <span className="text-pine">{t`in the screening${put.error ? t`, without its picture` : ""}`}</span>
    );
  if (s.data?.finished) return <span className="text-ink-2">{t`the screening is finished`}</span>;
  return (
    <>
      <button
        type="button"
        className="btn-quiet"
        aria-label={t`${j.name}, ${j.side}: into the screening`}
        disabled={!free || put.isPending || !s.data}
        onClick={() => put.mutate([j])}
      >
        {free ? t`into the screening` : t`all its trials are taken`}
      </button>
      <SaveState error={put.error} saving={put.isPending} />
    </>
  );
}
