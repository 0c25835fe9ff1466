import { afterEach, beforeEach, expect, it, vi } from "vitest";
import { calm } from "../src/api/calm";

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

it("without work every change is looked at, during work one in each time, and after it none of before", () => {
  const seen: string[] = [];
  const working = new Set<string>();
  const hear = calm(
    (id) => seen.push(id),
    (id) => working.has(id),
    5000,
  );
  hear("low water");
  hear("low water");
  expect(seen).toEqual(["low water", "low water"]);
  working.add("low water");
  for (let n = 0; n < 100; n++) hear("low water");
  hear("net mender");
  expect(seen.slice(2)).toEqual(["net mender"]);
  vi.advanceTimersByTime(5000);
  expect(seen.slice(3)).toEqual(["low water"]);
  hear("low water");
  working.delete("low water");
  vi.advanceTimersByTime(5000);
  expect(seen.slice(4)).toEqual([]);
  hear("low water");
  expect(seen.slice(4)).toEqual(["low water"]);
});
