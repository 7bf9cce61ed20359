import { act, cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { callAt } from "./course";
import type { Step } from "./rules";
import { Count } from "./set";

beforeEach(() => {
  vi.useFakeTimers();
});
afterEach(() => {
  cleanup();
  vi.useRealTimers();
});

const hold = (part: Partial<Step> = {}) =>
  ({
    notch: 1,
    exercise: "hold",
    words: "1 × 20 s",
    dose: { sets: 1, holdSeconds: 20, tempo: [0, 0, 0, 0] },
    restSeconds: 30,
    calls: [],
    ...part,
  }) as Step;
const off = { sound: false, buzz: false };
const shown = () => Number(screen.getByRole("timer").textContent);
const pass = (seconds: number) => {
  for (let t = 0; t < seconds * 10; t++) act(() => vi.advanceTimersByTime(100));
};

test("a hold broken into pieces goes on from what was held", () => {
  render(<Count step={hold()} settings={off} />);
  fireEvent.click(screen.getByRole("button", { name: "Count for me" }));
  pass(3 + 8.2);
  expect(shown()).toBe(12);
  fireEvent.click(screen.getByRole("button", { name: "Short break" }));
  pass(30);
  expect(shown()).toBe(12);
  screen.getByText("the total counts");
  fireEvent.click(screen.getByRole("button", { name: "Go on" }));
  pass(2);
  screen.getByText("get ready");
  pass(1 + 11.2);
  expect(shown()).toBe(1);
  expect(screen.queryByText("done")).toBeNull();
  pass(1);
  screen.getByText("done");
  expect(screen.queryByRole("button")).toBeNull();
});

test("an end-range hold calls its effort out and is held through", () => {
  const calls = [20, 40, 60, 80, 100].flatMap((effort, i) => [
    { at: 2 * i, word: "push" as const, effort },
    { at: 10 + 2 * i, word: "pull" as const, effort },
  ]);
  calls.sort((a, b) => a.at - b.at);
  const said: string[] = [];
  vi.stubGlobal(
    "SpeechSynthesisUtterance",
    class {
      text: string;
      constructor(text: string) {
        this.text = text;
      }
    },
  );
  vi.stubGlobal("speechSynthesis", { cancel() {}, speak: (u: { text: string }) => said.push(u.text) });
  const step = hold({ calls });
  expect(callAt(step, 9.9)).toMatchObject({ word: "push", effort: 100 });
  render(<Count step={step} settings={{ ...off, voice: true }} />);
  fireEvent.click(screen.getByRole("button", { name: "Count for me" }));
  pass(3 + 4.5);
  screen.getByText("push 60 %");
  expect(screen.queryByRole("button", { name: "Short break" })).toBeNull();
  pass(10);
  screen.getByText("pull 60 %");
  pass(6);
  expect(said).toEqual([
    ...[20, 40, 60, 80, 100].map((e) => `push ${e} %`),
    ...[20, 40, 60, 80, 100].map((e) => `pull ${e} %`),
    "done",
  ]);
  vi.unstubAllGlobals();
});
