import { expect, test } from "vitest";
import type { Version } from "../src/api/types";
import { barOf, fan, markRoom, monthsOf } from "../src/backups/fanned";

const at = (minutes: number) => {
  const two = (n: number) => String(n).padStart(2, "0");
  const hours = 19 + Math.floor(minutes / 60);
  return { key: `${minutes}`, saved: `2026-10-19T${two(hours)}:${two(Math.floor(minutes % 60))}:00` } as Version;
};
const span = { from: 19, to: 24, step: 1 };

test("marks that could not be hit stand in rows, and none more than it takes", () => {
  const width = 1200;
  const close = fan([at(0), at(2), at(4), at(8)], span, width);
  // 4 px a minute: the fourth is 32 px from the first, and finds room in its row again.
  expect(["0", "2", "4", "8"].map((key) => close.rowOf.get(key))).toEqual([0, 1, 2, 0]);
  expect(close.rows).toBe(3);
  const many = Array.from({ length: 300 }, (_, n) => at(n));
  const fanned = fan(many, span, width);
  for (let row = 0; row < fanned.rows; row++) {
    const places = many.filter((v) => fanned.rowOf.get(v.key) === row).map((v) => (Number(v.key) * width) / 300);
    for (const [n, place] of places.entries())
      if (n > 0) expect(place - (places[n - 1] ?? 0)).toBeGreaterThanOrEqual(markRoom);
  }
  expect(fan([], span, width).rows).toBe(1);
});

test("months without work stand between those with", () => {
  expect(monthsOf([])).toEqual([]);
  expect(
    monthsOf([
      { date: "2027-02-03", saves: 2 },
      { date: "2026-11-30", saves: 1 },
      { date: "2026-11-02", saves: 4 },
    ]),
  ).toEqual([
    { month: "2026-11", saves: 5 },
    { month: "2026-12", saves: 0 },
    { month: "2027-01", saves: 0 },
    { month: "2027-02", saves: 2 },
  ]);
});

test("one clip can be seen, more are higher, and hundreds stay in the line", () => {
  expect([0, 1, 2, 4, 12, 500].map(barOf)).toEqual([0, 3, 5, 7, 10, 10]);
});
