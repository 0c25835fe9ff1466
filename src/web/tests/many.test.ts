import { expect, it } from "vitest";
import type { ManyPlan } from "../src/api/types";
import { doableOf, endOf, inOrder, sumOfPlans } from "../src/loading-bay/many";

const plan = (over: Partial<ManyPlan>): ManyPlan => ({
  sessionId: "1",
  name: "Breakwater",
  planId: "p",
  sentence: "",
  isRefused: false,
  bytes: 0,
  warnings: [],
  ...over,
});

it("sums what is done, and where nothing is", () => {
  const plans = [
    plan({ bytes: 1_000_000 }),
    plan({ bytes: 500_000 }),
    plan({ planId: null }),
    plan({ planId: null, isRefused: true }),
  ];
  expect(doableOf(plans)).toHaveLength(2);
  expect(sumOfPlans("CopyIn", plans)).toBe(
    "2 sessions, 1.5 MB copied; nothing to do in 1; something stands in the way in 1. Each is a plan of its own, and is undone by itself.",
  );
  expect(sumOfPlans("Relink", [plan({ planId: null })])).toBe(
    "Nothing that is missing in any of them was found for certain.",
  );
});

it("shows first what stands in the way, last where nothing is to be done", () => {
  const plans = [
    plan({ name: "none", planId: null }),
    plan({ name: "one" }),
    plan({ name: "refused", planId: null, isRefused: true }),
    plan({ name: "two" }),
  ];
  expect(inOrder(plans).map((p) => p.name)).toEqual(["refused", "one", "two", "none"]);
});

it("tells what came of each", () => {
  expect(endOf([{ state: "Done" }, { state: "Done" }])).toBe("2 sessions done.");
  expect(endOf([{ state: "Done" }, { state: "Failed" }, { state: "Cancelled" }])).toBe(
    "1 session done, 1 not done, 1 cancelled.",
  );
});
