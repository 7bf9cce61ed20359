import { fireEvent, render, screen } from "@testing-library/react";
import { expect, test, vi } from "vitest";
import { Tick, Weekdays, withOrWithout } from "./tick";

test("a list gains or loses one thing and keeps the order of the rest", () => {
  expect(withOrWithout(["a", "b"], "c", true)).toEqual(["a", "b", "c"]);
  expect(withOrWithout(["a", "b", "c"], "b", false)).toEqual(["a", "c"]);
  expect(withOrWithout(["a"], "a", true)).toEqual(["a"]);
  expect(withOrWithout(undefined, "a", true)).toEqual(["a"]);
  expect(withOrWithout(null, "a", false)).toEqual([]);
});

test("a tick says its own name, or the longer one given for the ear", () => {
  const put = vi.fn();
  render(
    <>
      <Tick label="evenings" on={false} onChange={put} />
      <Tick label="not on this day" name="Calf raise, left: not on this day" on onChange={put} disabled />
    </>,
  );
  fireEvent.click(screen.getByRole("checkbox", { name: "evenings" }));
  expect(put).toHaveBeenCalledExactlyOnceWith(true);
  const left = screen.getByRole("checkbox", { name: "Calf raise, left: not on this day" });
  expect(left).toHaveProperty("disabled", true);
  expect(left).toHaveProperty("checked", true);
});

test("days of the week come sorted, Monday first, whatever was ticked first", () => {
  const put = vi.fn();
  const { rerender } = render(<Weekdays label="Run days" days={[5]} onChange={put} />);
  fireEvent.click(screen.getByRole("checkbox", { name: "Tue" }));
  expect(put).toHaveBeenLastCalledWith([1, 5]);
  rerender(<Weekdays label="Run days" days={[1, 5]} onChange={put} bad="three days at most" />);
  fireEvent.click(screen.getByRole("checkbox", { name: "Sat" }));
  expect(put).toHaveBeenLastCalledWith([1]);
  expect(screen.getByText(/three days at most/)).toBeTruthy();
});
