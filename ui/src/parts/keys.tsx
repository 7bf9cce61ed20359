import { t } from "@lingui/core/macro";
import {
  createContext,
  lazy,
  type ReactNode,
  Suspense,
  useCallback,
  useContext,
  useEffect,
  useId,
  useRef,
  useState,
} from "react";
import { tinykeys } from "tinykeys";

/** One thing that keys do: how the list shows them, and what is pressed. */
export type Binding = {
  /** The keys as the list shows them; empty where another line shows them. */
  show: string;
  does: string;
  /** By what is pressed; false means it was for somebody else. None where the focused part takes it. */
  on?: Record<string, (e: KeyboardEvent) => unknown>;
  /** Works while something is typed, too. */
  typing?: boolean;
};

const KeyList = lazy(() => import("./keylist"));

type Tell = (id: string, list: Binding[]) => void;
const Registry = createContext<Tell>(() => {});

export const typing = (e: KeyboardEvent) =>
  e.target instanceof HTMLElement && !!e.target.closest("input:not([type=radio]),textarea,select");

/** Binds the keys of a part while it is shown, and names them in the list that ? opens. */
export function useKeys(list: Binding[], { when = true, capture = false } = {}) {
  const id = useId();
  const tell = useContext(Registry);
  const now = useRef(list);
  now.current = list;
  const shape = JSON.stringify(list.map((b) => [b.show, b.does, Object.keys(b.on ?? {})]));
  // biome-ignore lint/correctness/useExhaustiveDependencies: what the list says decides, not that it is new
  useEffect(() => {
    if (!when) return;
    tell(id, now.current);
    const keys: Record<string, (e: KeyboardEvent) => void> = {};
    for (const b of now.current)
      for (const k of Object.keys(b.on ?? {}))
        keys[k] = (e) => {
          const bound = now.current.find((x) => x.on?.[k]);
          if (!bound || (!bound.typing && typing(e))) return;
          if (bound.on?.[k]?.(e) !== false) e.preventDefault();
        };
    const off = tinykeys(window, keys, { capture });
    return () => {
      off();
      tell(id, []);
    };
  }, [id, tell, shape, when, capture]);
}

/** A printed sign, with and without Shift: keyboards differ. */
export const sign = (s: string, fn: (e: KeyboardEvent) => unknown) => ({ [s]: fn, [`Shift+${s}`]: fn });

/** Keeps all keys that are bound now, and shows them on ?. */
export function KeysProvider({ children }: { children: ReactNode }) {
  const [lists, setLists] = useState<Record<string, Binding[]>>({});
  const tell = useCallback<Tell>((id, list) => {
    setLists(({ [id]: _, ...rest }) => (list.length ? { ...rest, [id]: list } : rest));
  }, []);
  return (
    <Registry.Provider value={tell}>
      {children}
      <Keys lists={lists} />
    </Registry.Provider>
  );
}

function Keys({ lists }: { lists: Record<string, Binding[]> }) {
  const [open, setOpen] = useState(false);
  useKeys([
    {
      show: "?",
      does: t`show these keys`,
      typing: true,
      on: sign("?", (e) => {
        const numeric = e.target instanceof HTMLInputElement && e.target.inputMode === "decimal";
        if (typing(e) && !numeric) return false;
        setOpen(true);
      }),
    },
    { show: "Esc", does: t`close a panel` },
  ]);
  return open ? (
    <Suspense fallback={null}>
      <KeyList lists={lists} close={() => setOpen(false)} />
    </Suspense>
  ) : null;
}
