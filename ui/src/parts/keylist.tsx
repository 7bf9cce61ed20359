import { t } from "@lingui/core/macro";
import { Dialog } from "radix-ui";
import type { Binding } from "./keys";

/** The keys that work now. */
export default function KeyList({ lists, close }: { lists: Record<string, Binding[]>; close: () => void }) {
  const shown = Object.values(lists)
    .flat()
    .filter((b) => b.show);
  const lines = shown.filter((b, i) => shown.findIndex((x) => x.show === b.show && x.does === b.does) === i);
  return (
    <Dialog.Root open onOpenChange={(open) => !open && close()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-[rgb(0_0_0/0.35)]" />
        <Dialog.Content className="panel fixed top-[12vh] left-1/2 max-h-[80vh] w-[min(30rem,94vw)] -translate-x-1/2 overflow-y-auto">
          <Dialog.Title asChild>
            <h2>{t`Keyboard shortcuts`}</h2>
          </Dialog.Title>
          <Dialog.Description className="sr-only">{t`The keys that work in this view`}</Dialog.Description>
          <dl className="mt-3 grid grid-cols-[auto_1fr] items-baseline gap-x-4 gap-y-2">
            {lines.map((b) => (
              <div key={b.show + b.does} className="contents">
                <dt>
                  {b.show.split(" ").map((p) => (
                    <kbd key={p} className="key mr-1">
                      {p}
                    </kbd>
                  ))}
                </dt>
                <dd>{b.does}</dd>
              </div>
            ))}
          </dl>
          <Dialog.Close className="btn mt-4">{t`Close`}</Dialog.Close>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
