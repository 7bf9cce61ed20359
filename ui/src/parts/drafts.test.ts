import { beforeEach, expect, test, vi } from "vitest";
import { draftsOf, dropDraft, dropDrafts, getDraft, putDraft, unsent } from "./drafts";

beforeEach(() => {
  localStorage.clear();
  vi.useRealTimers();
});

test("a draft is its user's alone, and goes at sign-out", () => {
  draftsOf("p1", "u1");
  putDraft("talk:s", { complaints: 1 });
  putDraft("form", 2);
  dropDraft("form");
  expect(getDraft("talk:s")).toEqual({ complaints: 1 });
  expect(unsent()).toBe(1);
  draftsOf("p1", "u2");
  expect(getDraft("talk:s")).toBeUndefined();
  expect(unsent()).toBe(0);
  putDraft("talk:s", "mine");
  dropDrafts();
  expect(getDraft("talk:s")).toBeUndefined();
  draftsOf("p1", "u1");
  expect(getDraft("talk:s")).toEqual({ complaints: 1 });
  dropDrafts();
  expect(Object.keys(localStorage)).toHaveLength(0);
});

test("what is old, or from before drafts had a user, goes", () => {
  localStorage.setItem("draft:talk:s", '{"complaints":[]}');
  localStorage.setItem("draft:broken", "{");
  localStorage.setItem("theme", "dark");
  vi.useFakeTimers();
  vi.setSystemTime(new Date("2026-01-01"));
  draftsOf("p", "u");
  putDraft("form", 1);
  vi.setSystemTime(new Date("2026-01-10"));
  draftsOf("p", "u");
  expect(getDraft("form")).toBe(1);
  vi.setSystemTime(new Date("2026-01-20"));
  draftsOf("p", "other");
  expect(Object.keys(localStorage)).toEqual(["theme"]);
});

test("without a user nothing is kept", () => {
  dropDrafts();
  putDraft("form", 1);
  expect(Object.keys(localStorage)).toHaveLength(0);
});
