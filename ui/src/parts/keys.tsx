import { Dialog } from "radix-ui";
import { createContext, type ReactNode, useContext, useEffect, useState } from "react";

export type KeyHelp = [key: string, does: string][];
const Help = createContext<(k: KeyHelp) => void>(() => {});

const everywhere: KeyHelp = [
  ["/", "find a runner"],
  ["?", "show these keys"],
  ["Esc", "close a panel"],
];

/** Names the keys of a view for the list that ? opens. */
export function useKeys(keys: KeyHelp) {
  const tell = useContext(Help);
  const list = JSON.stringify(keys);
  useEffect(() => {
    tell(JSON.parse(list) as KeyHelp);
    return () => tell([]);
  }, [tell, list]);
}

export const typing = (e: KeyboardEvent) =>
  e.target instanceof HTMLElement && !!e.target.closest("input:not([type=radio]),textarea,select");

export function KeysProvider({ children }: { children: ReactNode }) {
  const [view, setView] = useState<KeyHelp>([]);
  const [open, setOpen] = useState(false);
  useEffect(() => {
    const on = (e: KeyboardEvent) => {
      const numeric = e.target instanceof HTMLInputElement && e.target.inputMode === "decimal";
      if (e.key === "?" && (!typing(e) || numeric)) {
        e.preventDefault();
        setOpen(true);
      }
    };
    addEventListener("keydown", on);
    return () => removeEventListener("keydown", on);
  }, []);
  return (
    <Help.Provider value={setView}>
      {children}
      <Dialog.Root open={open} onOpenChange={setOpen}>
        <Dialog.Portal>
          <Dialog.Overlay className="fixed inset-0 z-40 bg-[rgb(0_0_0/0.35)]" />
          <Dialog.Content className="panel fixed top-[12vh] left-1/2 w-[min(30rem,94vw)] -translate-x-1/2">
            <Dialog.Title asChild>
              <h2>Keys here</h2>
            </Dialog.Title>
            <Dialog.Description className="sr-only">The keys that work in this view</Dialog.Description>
            <dl className="mt-3 grid grid-cols-[auto_1fr] items-baseline gap-x-4 gap-y-2">
              {[...view, ...everywhere].map(([k, does]) => (
                <div key={k} className="contents">
                  <dt>
                    {k.split(" ").map((p) => (
                      <kbd key={p} className="key mr-1">
                        {p}
                      </kbd>
                    ))}
                  </dt>
                  <dd>{does}</dd>
                </div>
              ))}
            </dl>
            <Dialog.Close className="btn mt-4">Close</Dialog.Close>
          </Dialog.Content>
        </Dialog.Portal>
      </Dialog.Root>
    </Help.Provider>
  );
}
