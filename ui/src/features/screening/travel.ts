import type { KeyboardEvent } from "react";
import type { Place } from "./trials";

export const cellId = (test: string, side: Place, slot: number) => `t-${test}-${side}-${slot}`;

/** Moves the focus; returns whether there was somewhere to go. */
export function focusCell(where: Element | null | undefined): boolean {
  if (!(where instanceof HTMLInputElement)) return false;
  where.focus();
  where.select();
  return true;
}

export function travel(e: KeyboardEvent<HTMLInputElement>) {
  const all = [...document.querySelectorAll<HTMLInputElement>("input[data-cell]:not(:disabled)")];
  const at = all.indexOf(e.currentTarget);
  const { test = "", side = "left", slot = "1" } = e.currentTarget.dataset;
  const edge =
    e.currentTarget.selectionStart === e.currentTarget.selectionEnd || e.currentTarget.value === "";
  const caret = e.currentTarget.selectionStart ?? 0;
  let to: Element | null | undefined;
  if (e.key === "Enter") to = all[at + (e.shiftKey ? -1 : 1)];
  else if (e.key === "ArrowRight" && edge && caret === e.currentTarget.value.length) to = all[at + 1];
  else if (e.key === "ArrowLeft" && edge && caret === 0) to = all[at - 1];
  else if (e.key === "ArrowDown" || e.key === "ArrowUp") {
    const tests = [...new Set(all.map((i) => i.dataset.test))];
    const next = tests[tests.indexOf(test) + (e.key === "ArrowDown" ? 1 : -1)];
    to = next
      ? (document.getElementById(cellId(next, side as Place, Number(slot))) ??
        document.getElementById(cellId(next, side as Place, 1)))
      : null;
  } else return;
  e.preventDefault();
  if (!focusCell(to) && e.key === "Enter") document.getElementById("finish")?.focus();
}
