import { cleanup, render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import * as z from "zod/mini";

vi.hoisted(() => {
  globalThis.fetch = async () => new Response("{}");
});
const { Problem } = await import("../api/client");
const { draftsOf, getDraft, putDraft } = await import("./drafts");
const { Field } = await import("./field");
const { Chosen, neededNumber, typedNumber, useChecked } = await import("./form");

const rules = z.object({
  name: z.string(),
  kg: typedNumber("kg", "63.5"),
  km: neededNumber("km", "8.5"),
  pain: z.optional(z.number()),
});
const start = { name: "", kg: "", km: "", pain: undefined };
type Form = ReturnType<typeof useChecked<z.input<typeof rules>, z.output<typeof rules>>>;
let f: Form;
const sent: unknown[] = [];

function Sample() {
  f = useChecked(rules, start, "sample");
  return (
    <form onSubmit={f.form.handleSubmit((v) => void sent.push({ key: f.key, ...v }))}>
      <Field label="Name" {...f.text("name")} />
      <Field label="Mass" {...f.text("kg")} />
      <Field label="Distance" {...f.text("km")} />
      <Chosen
        label="Pain"
        control={f.form.control}
        name="pain"
        options={[
          { value: 0, label: "0" },
          { value: 3, label: "3" },
        ]}
      />
      <button type="submit">Send</button>
    </form>
  );
}

beforeEach(() => {
  localStorage.clear();
  draftsOf("p", "u");
  sent.length = 0;
});
afterEach(cleanup);

test("what can't be read is said beside its field and nothing is sent", async () => {
  const user = userEvent.setup();
  render(<Sample />);
  await user.type(screen.getByLabelText("Mass"), "much");
  expect(screen.getByText(/A number in kg is expected, like 63.5/)).toBeTruthy();
  await user.click(screen.getByText("Send"));
  expect(await screen.findByText(/A number in km is expected, like 8.5/)).toBeTruthy();
  expect(sent).toEqual([]);
  await user.clear(screen.getByLabelText("Mass"));
  await user.type(screen.getByLabelText("Mass"), "63,5");
  await user.type(screen.getByLabelText("Distance"), "8");
  await user.click(screen.getByLabelText("3"));
  await user.click(screen.getByText("Send"));
  await waitFor(() => expect(sent).toHaveLength(1));
  expect(sent[0]).toMatchObject({ name: "", kg: 63.5, km: 8, pain: 3 });
});

test("a draft comes back with its key, and goes when it is stored", async () => {
  const user = userEvent.setup();
  const first = render(<Sample />);
  await user.type(screen.getByLabelText("Name"), "Isolde");
  const { key } = f;
  first.unmount();
  render(<Sample />);
  expect((screen.getByLabelText("Name") as HTMLInputElement).value).toBe("Isolde");
  expect(f.key).toBe(key);
  f.done();
  expect(getDraft("sample")).toBeUndefined();
});

test("a draft of another shape is left out", () => {
  putDraft("sample", { key: "k", value: { name: 3, other: true } });
  render(<Sample />);
  expect((screen.getByLabelText("Name") as HTMLInputElement).value).toBe("");
  expect(f.key).not.toBe("k");
});

test("the server's sentences stand beside their fields until these change; the next try has its own key", async () => {
  const user = userEvent.setup();
  render(<Sample />);
  const { key } = f;
  f.refused(new Problem(422, { errors: [{ location: "body.name", message: "say a name" }] }));
  expect(await screen.findByText(/say a name/)).toBeTruthy();
  await waitFor(() => expect(f.key).not.toBe(key));
  await user.type(screen.getByLabelText("Name"), "A");
  await waitFor(() => expect(screen.queryByText(/say a name/)).toBeNull());
});
