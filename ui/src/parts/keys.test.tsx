import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { afterEach, expect, test } from "vitest";
import "./keylist"; // loaded already, as the second time it is asked for
import { KeysProvider, useKeys } from "./keys";

afterEach(cleanup);

const done: string[] = [];
function Part({ name, k, when = true }: { name: string; k: string; when?: boolean }) {
  useKeys([{ show: k, does: name, on: { [k]: () => done.push(name) } }], { when });
  return null;
}
function Both() {
  const [second, setSecond] = useState(true);
  const [n, setN] = useState(0);
  useKeys([{ show: "i", does: "one more", on: { i: () => setN(n + 1) } }]);
  return (
    <>
      <Part name="first" k="f" />
      {second && <Part name="second" k="s" />}
      <Part name="held back" k="h" when={false} />
      <input aria-label="text" />
      <output>{n}</output>
      <button type="button" onClick={() => setSecond(false)}>
        without the second
      </button>
    </>
  );
}
const lines = () => [...document.querySelectorAll("dl dd")].map((d) => d.textContent);

test("every part's keys work and stand in the list, and go with their part", async () => {
  const user = userEvent.setup();
  render(
    <KeysProvider>
      <Both />
    </KeysProvider>,
  );
  done.length = 0;
  await user.keyboard("fsh");
  expect(done).toEqual(["first", "second"]);
  await user.keyboard("{Shift>}?{/Shift}");
  await screen.findByRole("dialog");
  expect(lines()).toEqual(expect.arrayContaining(["first", "second", "one more", "show these keys"]));
  expect(lines()).not.toContain("held back");
  await user.keyboard("{Escape}");
  expect(screen.queryByRole("dialog")).toBeNull();
  await user.click(screen.getByRole("button"));
  await user.keyboard("s?");
  await screen.findByRole("dialog");
  expect(done).toEqual(["first", "second"]);
  expect(lines()).not.toContain("second");
});

test("a key sees what stands now, and none acts while something is typed", async () => {
  const user = userEvent.setup();
  render(
    <KeysProvider>
      <Both />
    </KeysProvider>,
  );
  await user.keyboard("iii");
  expect(screen.getByRole("status").textContent).toBe("3");
  done.length = 0;
  await user.type(screen.getByLabelText("text"), "fi?");
  expect(done).toEqual([]);
  expect(screen.getByRole("status").textContent).toBe("3");
  expect((screen.getByLabelText("text") as HTMLInputElement).value).toBe("fi?");
  expect(screen.queryByRole("dialog")).toBeNull();
});
