import { useState } from "react";

const kept = "guide";

/** The guided start: five steps, dismissed or called again at any time. */
export function useGuide() {
  const [at, setAt] = useState(() => {
    const was = localStorage.getItem(kept);
    return was === null ? 0 : Number(was);
  });
  const set = (n: number) => {
    localStorage.setItem(kept, String(n));
    setAt(n);
  };
  return { at, set, call: () => set(0), end: () => set(-1) };
}

export type Guide = ReturnType<typeof useGuide>;
