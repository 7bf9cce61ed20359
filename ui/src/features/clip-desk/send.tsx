import { t } from "@lingui/core/macro";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, need, type Schema } from "../../api/client";
import { useOrigins, useScreening } from "../../api/hooks";
import { SaveState } from "../../parts/states";
import { digits, type Judged, origin, type Screening, type Shot } from "./readings";
import type { Clip } from "./upload";

const slots = 5;

type Origin = Schema["TrialOrigin"];

/** The trials of a reading's test and side. */
const taken = (s: Screening | undefined, j: Judged) =>
  (s?.trials ?? []).filter((time) => time.test === j.test && time.side === j.side);

/** Which mark of which clip a reading is of. */
const markOf = (clip: Clip, j: Judged, from: string) => `${clip.id}/${j.measure}/${from}`;

/** The trial that was read from the same mark before. */
const before = (list: readonly Origin[], j: Judged, mark: string) =>
  list.find((o) => o.test === j.test && o.side === j.side && o.mark === mark)?.slot;

/** The trial a reading belongs into: its own where it was sent before, else the first that is free. */
const slotFor = (s: Screening | undefined, list: readonly Origin[], j: Judged, mark: string) =>
  before(list, j, mark) ??
  Array.from({ length: slots }, (_, k) => k + 1).find((k) => !taken(s, j).some((time) => time.slot === k));

/** Whether a reading stands in the screening already. */
export const isIn = (s: Screening | undefined, j: Judged) =>
  taken(s, j).some((time) => time.value === Number(digits(j)));

/** Puts readings into the screening's tests, each with where it comes from and the picture. */
export function useSend(clip: Clip, shot?: Shot, from = "steps") {
  const qc = useQueryClient();
  const origins = useOrigins(clip.screeningId);
  return useMutation({
    mutationFn: async (list: readonly Judged[]) => {
      const picture = await shot?.current?.(1280);
      let s = qc.getQueryData<Screening>(["screening", clip.screeningId]);
      let left = 0;
      for (const j of list) {
        const mark = markOf(clip, j, from);
        const slot = slotFor(s, origins, j, mark);
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
        await origin(clip.screeningId, j, slot, mark, picture);
      }
      return left;
    },
    onSettled: () => void qc.invalidateQueries({ queryKey: ["origins", clip.screeningId] }),
  });
}

export function Send({ j, clip, shot, from }: { j: Judged; clip: Clip; shot?: Shot; from: string }) {
  const s = useScreening(clip.screeningId);
  const origins = useOrigins(clip.screeningId);
  const put = useSend(clip, shot, from);
  const mark = markOf(clip, j, from);
  const slot = slotFor(s.data, origins, j, mark);
  const own = before(origins, j, mark);
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
        aria-label={
          own
            ? t`${j.name}, ${j.side}: replace what was sent before`
            : t`${j.name}, ${j.side}: into the screening`
        }
        disabled={!slot || put.isPending || !s.data}
        onClick={() => put.mutate([j])}
      >
        {own ? t`replace what was sent` : slot ? t`into the screening` : t`all its trials are taken`}
      </button>
      <SaveState error={put.error} saving={put.isPending} />
    </>
  );
}
