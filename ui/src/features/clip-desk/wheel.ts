import { useEffect, useRef } from "react";

/** Steps by the wheel over a part of the page, which does not scroll meanwhile. */
export function useWheel(step: (by: number) => void) {
  const box = useRef<HTMLDivElement>(null);
  const fn = useRef(step);
  fn.current = step;
  useEffect(() => {
    const el = box.current;
    const on = (e: WheelEvent) => {
      if (e.deltaY === 0 || e.ctrlKey) return;
      e.preventDefault();
      fn.current(Math.sign(e.deltaY));
    };
    // a wheel listener of React can't keep the page from scrolling
    el?.addEventListener("wheel", on, { passive: false });
    return () => el?.removeEventListener("wheel", on);
  }, []);
  return box;
}
