import { t } from "@lingui/core/macro";
import { useQuery } from "@tanstack/react-query";
import { Dialog } from "radix-ui";
import { api, need, type Schema } from "../../api/client";
import { Shown, type Tempo } from "../../parts/motion";
import { Drawing, Picture } from "../../parts/picture";
import { Failed } from "../../parts/states";
import type { Exercise } from "./hooks";

/** Shown where no dose says another tempo. */
const usual: Tempo = { up: 2, hold: 1, down: 2, low: 0.6 };

const tempoOf = (n: Schema["ShelfNotch"] | undefined): Tempo => {
  const [up = 0, hold = 0, down = 0, low = 0] = n?.seconds ?? [];
  return up + down > 0 ? { up, hold, down, low: Math.max(low, 0.4) } : usual;
};

/** An exercise's picture that opens big, in motion at its notch's tempo, with its text. */
export function BigPicture({
  e,
  notch,
  size = 72,
}: {
  e: Exercise;
  notch?: Schema["ShelfNotch"];
  size?: number;
}) {
  if (!e.picture) return null;
  return (
    <Dialog.Root>
      <Dialog.Trigger className="shrink-0 cursor-zoom-in" aria-label={t`See it move: ${e.name}`}>
        <Picture picture={e.picture} size={size} />
      </Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-ink/40" />
        <Dialog.Content className="fixed top-1/2 left-1/2 z-50 max-h-[94dvh] w-[min(94vw,760px)] -translate-1/2 overflow-y-auto border-t-4 border-ink bg-paper p-5">
          <Dialog.Title className="text-[24px]">{e.name}</Dialog.Title>
          <Big e={e} notch={notch} />
          <Dialog.Close className="btn mt-4">{t`Close`}</Dialog.Close>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function Big({ e, notch }: { e: Exercise; notch?: Schema["ShelfNotch"] }) {
  const motion = useQuery({
    queryKey: ["motion", e.id, e.rev],
    queryFn: () =>
      need(
        api.POST("/api/compute/figure", {
          body: {
            start: e.figure?.[0] ?? "",
            end: e.figure?.[1] ?? "",
            turned: e.turned ?? [{}, {}],
            part: e.part || undefined,
          },
        }),
      ),
    staleTime: 600_000,
  });
  return (
    <>
      <div className="mt-2 flex flex-wrap items-center justify-center gap-4">
        <Shown motion={motion.data} picture={e.picture} tempo={tempoOf(notch)} size={390} />
        <div className="flex gap-2 sm:flex-col">
          <figure>
            <Drawing parts={e.picture?.start ?? []} size={120} />
            <figcaption className="text-[13px] text-ink-2">{t`start`}</figcaption>
          </figure>
          <figure>
            <Drawing parts={e.picture?.end ?? []} size={120} />
            <figcaption className="text-[13px] text-ink-2">{t`end; dashes are the start`}</figcaption>
          </figure>
        </div>
      </div>
      {motion.error && <Failed error={motion.error} retry={() => void motion.refetch()} />}
      <Dialog.Description className="mt-2">{e.setUp}</Dialog.Description>
      <ul className="list-disc pl-5">
        {e.cues.map((c) => (
          <li key={c}>{c}</li>
        ))}
      </ul>
      {notch?.tempo && <p className="mt-1 text-ink-2">{notch.tempo}</p>}
    </>
  );
}
