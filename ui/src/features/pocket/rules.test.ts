import { expect, test } from "vitest";
import { efforts, nextAt, paceOf, placeIn, toldAs, walks, walksAgain } from "./course";
import { type Kept, type Plan, type Progress, type Report, whole } from "./keep";
import {
  addDays,
  dateOf,
  doing,
  emergency,
  type Item,
  localOf,
  noRunning,
  openOn,
  silence,
  sittingsOf,
  whyNot,
} from "./rules";

const step = (notch: number, sets = 2) => ({
  notch,
  exercise: "raise",
  words: `notch ${notch}`,
  dose: { sets, reps: 8, tempo: [2, 1, 3, 0] },
  restSeconds: 60,
});
const none = Array<number>(11).fill(0);
const item = (id: string, part: Partial<Item> = {}): Item =>
  ({
    prescriptionId: id,
    ladder: id,
    name: id,
    purpose: "strength",
    effort: "reserve",
    together: false,
    slowerAt: 4,
    endsAt: 6,
    endsAll: true,
    walk: true,
    sides: ["left", "right"].map((side) => ({
      side,
      steps: [step(5), step(4), step(3)],
      morning: {
        "/": none.map((_, i) => (i >= 6 ? -1 : i >= 3 ? 1 : 0)),
        "heel/left": none.map((_, i) => (i >= 4 ? 2 : 0)),
      },
      closedBy: ["F-POP", "F-BONE"],
    })),
    ...part,
  }) as Item;

const calf = item("calf");
const toes = item("toes", { purpose: "steer", effort: "none", walk: false });
const plan = {
  at: "2026-11-28T06:00:00Z",
  today: "2026-11-28",
  quiet: ["toes"],
  emergency: ["F-POP"],
  noRunIf: ["F-BONE", "F-POP"],
  rules: { slower: 4, endsExercise: 6, endsSession: 8, quietDays: 8, restSevere: 5 },
  reports: [],
  days: [
    {
      on: "2026-11-28",
      ramp: [],
      logged: false,
      sessions: [{ kind: "main", name: "Main session", minutes: 12, items: [calf, toes] }],
    },
  ],
} as unknown as Plan;
const at = Date.parse("2026-11-28T07:00:00Z");
const kept = (r: Partial<Report>, id = "x"): Kept => ({
  id,
  order: 1,
  told: "kept",
  report: { id, on: "2026-11-28", at: "", kind: "morning", ...r } as Report,
});
const left = calf.sides[0];
const does = (list: Kept[], i = calf, now = at) => {
  const side = i.sides[0];
  if (!side) throw new Error("no side");
  const d = doing(plan, localOf(plan, list), i, side, now);
  return "step" in d ? d.step.notch : "closed";
};

test("a morning lowers or closes by the table, the most careful one holds", () => {
  expect(does([])).toBe(5);
  const morning = (firstStep: number, zone?: string, side?: "left") =>
    kept({ morning: { readings: [{ firstStep, zone, side }] } });
  expect(does([morning(2)])).toBe(5);
  expect(does([morning(3)])).toBe(4);
  expect(does([morning(6)])).toBe("closed");
  expect(does([morning(3), morning(4, "heel", "left")])).toBe(3);
  expect(does([morning(6), morning(0)]), "a better one takes nothing back").toBe("closed");
});

test("answers close what they close, and an emergency closes everything", () => {
  const yes = (id: string) => [kept({ morning: { answers: { yes: { [id]: "left" }, none: [] } } })];
  expect(does(yes("F-BONE"))).toBe("closed");
  expect(does(yes("F-OTHER"))).toBe(5);
  expect(noRunning(plan, localOf(plan, yes("F-BONE")))).toBe(true);
  expect(emergency(plan, localOf(plan, yes("F-BONE")))).toBe(false);
  expect(emergency(plan, localOf(plan, yes("F-POP")))).toBe(true);
  expect(does(yes("F-POP"), toes)).toBe("closed");
});

test("pain in a session lowers the next, eight leaves what is quiet", () => {
  const session = (pain: number) => [
    kept({
      kind: "session",
      session: {
        block: "b",
        kind: "main",
        items: [{ prescriptionId: "calf", side: "left", notch: 5, pain }],
      },
    }),
  ];
  expect(does(session(5))).toBe(5);
  expect(does(session(6))).toBe(4);
  expect(does(session(8))).toBe("closed");
  expect(does(session(8), toes)).toBe(5);
});

test("from the ninth day without contact only what is quiet is shown", () => {
  const day = 86_400_000;
  expect(silence(plan, at + 8 * day)).toBe(8);
  expect(does([], calf, at + 8 * day)).toBe(5);
  expect(does([], calf, at + 9 * day)).toBe("closed");
  expect(does([], toes, at + 9 * day)).toBe(5);
  expect(silence(plan, at - 30 * day), "a clock that went back").toBe(0);
});

test("what the plan stands on already is not counted twice", () => {
  const list = [kept({ morning: { readings: [{ firstStep: 6 }] } }, "known")];
  const newer = { ...plan, reports: [{ id: "known", state: "taken" }] } as unknown as Plan;
  expect(localOf(newer, list).mornings).toEqual([]);
  expect(localOf(plan, list).mornings).toHaveLength(1);
});

test("what is not done says why, once a reason", () => {
  const list = [kept({ morning: { answers: { yes: { "F-BONE": "both" }, none: [] } } })];
  const why = whyNot(plan, localOf(plan, list), "2026-11-28", at);
  expect(why).toHaveLength(1);
  expect(why[0]?.name).toBe("calf; toes");
  const one = whyNot(
    plan,
    localOf(plan, [
      kept({
        kind: "session",
        session: {
          block: "b",
          kind: "main",
          items: [{ prescriptionId: "calf", side: "left", notch: 5, pain: 8 }],
        },
      }),
    ]),
    "2026-11-28",
    at,
  );
  expect(one[0]?.name, "pain of 8 on one side closes what loads on both").toBe("calf");
  expect(sittingsOf(plan, localOf(plan, list), "2026-11-28", at)).toEqual([]);
});

test("sets go side by side, an ended side falls away, and the session is told as it was done", () => {
  const now = sittingsOf(plan, localOf(plan, []), "2026-11-28", at)[0];
  if (!now || !left) throw new Error("no sitting");
  const list = efforts(now);
  expect(list.slice(0, 4).map((e) => `${e.key} ${e.set}`)).toEqual([
    "calf/left 1",
    "calf/right 1",
    "calf/left 2",
    "calf/right 2",
  ]);
  const p: Progress = {
    on: "2026-11-28",
    kind: "main",
    at: 0,
    results: {
      "calf/left": { sets: 1, of: 2, notch: 5, pain: 6, ended: true },
      "calf/right": { sets: 2, of: 2, notch: 5, pain: 2, reserve: 3, mistakes: [] },
    },
  };
  expect(nextAt(list, p, 2)).toBe(3);
  const told = toldAs("id", "block", p, list, new Date(at), "UTC", "same");
  expect(told?.session?.items).toEqual([
    expect.objectContaining({ prescriptionId: "calf", side: "left", done: 0.5, pain: 6, notch: 5 }),
    expect.objectContaining({
      prescriptionId: "calf",
      side: "right",
      done: 1,
      pain: 2,
      reserve: 3,
      compensated: 0,
    }),
  ]);
  expect(toldAs("id", "block", { ...p, results: {} }, list, new Date(at), "UTC")).toBeNull();
});

test("a repetition is counted by its tempo", () => {
  const pace = paceOf(step(5) as never);
  if (pace.is !== "reps") throw new Error("repetitions");
  expect(placeIn(pace, 0)).toMatchObject({ rep: 1, part: "up" });
  expect(placeIn(pace, 2.5)).toMatchObject({ rep: 1, part: "hold" });
  expect(placeIn(pace, 3)).toMatchObject({ rep: 1, part: "down" });
  expect(placeIn(pace, 6)).toMatchObject({ rep: 2, part: "up" });
  expect(placeIn(pace, 47.9).done).toBe(false);
  expect(placeIn(pace, 48).done).toBe(true);
});

test("dates are the phone's own, over months and years", () => {
  expect(dateOf(new Date(2026, 11, 31, 23, 59))).toBe("2026-12-31");
  expect(addDays("2026-12-31", 1)).toBe("2027-01-01");
  expect(addDays("2027-03-01", -1)).toBe("2027-02-28");
});

test("a day that is over is open until its session was told, here or before", () => {
  expect(openOn(plan, [], "2026-11-28").map((s) => s.kind)).toEqual(["main"]);
  expect(openOn(plan, [], "2026-11-20")).toEqual([]);
  const told = {
    report: { kind: "session", on: "2026-11-28", session: { kind: "main", items: [] } },
  } as unknown as Kept;
  expect(openOn(plan, [told], "2026-11-28")).toEqual([]);
});

test("a plan of an older server reads with what is missing empty, nonsense is none", () => {
  const { days, rules, at } = plan;
  expect(whole({ days, rules, at })).toMatchObject({ moves: [], notes: [], quiet: [], days });
  for (const bad of [undefined, null, "x", {}, { days }]) expect(whole(bad)).toBeUndefined();
});

test("a walk is asked before strength, and not on a day strength rests", () => {
  const [main] = sittingsOf(plan, localOf(plan, []), "2026-11-28", at);
  if (!main) throw new Error("no session");
  expect(walks(main)).toBe(false);
  const walked = { ...main, sitting: { ...main.sitting, litmus: true } };
  expect(walks(walked)).toBe(true);
  expect(walks({ ...walked, todo: walked.todo.filter((t) => !t.item.walk) })).toBe(false);
});

test("nobody is asked to walk again after a set that ended an exercise, or on a stopped day", () => {
  const now = sittingsOf(plan, localOf(plan, []), "2026-11-28", at)[0];
  if (!now) throw new Error("no session");
  const list = efforts(now);
  const p = (pain: number): Progress => ({
    on: "2026-11-28",
    kind: "main",
    at: 1,
    walked: true,
    results: { "calf/left": { sets: 1, of: 2, notch: 5, pain } },
  });
  expect(walksAgain(p(5), list, false)).toBe(true);
  expect(walksAgain(p(6), list, false)).toBe(false);
  expect(walksAgain(p(1), list, true)).toBe(false);
  const sore = list.map((e) => ({ ...e, item: { ...e.item, endsAt: 8, endsAll: false } }));
  expect(walksAgain(p(7), sore, false)).toBe(true);
  expect(walksAgain({ ...p(1), walked: false }, list, false)).toBe(false);
});
