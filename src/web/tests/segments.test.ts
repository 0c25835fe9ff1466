import { expect, it } from "vitest";
import { isIn, nameOf, type Segment, toggled } from "../src/weighbridge/segments";

const outside: Segment = { standing: "Outside", use: "Placed" };
const listed: Segment = { standing: "Inside", use: "Listed" };

it("several parts are chosen, each by itself", () => {
  const both = toggled(toggled([], outside), listed);
  expect(both).toEqual([outside, listed]);
  expect(toggled(both, outside)).toEqual([listed]);
  expect(isIn(both, { standing: "Inside", use: "Placed" })).toBe(false);
});

it("what is inside is named by its use, all else by where it stands", () => {
  expect([outside, listed, { standing: "Away", use: "Listed" } as const].map(nameOf)).toEqual([
    "outside",
    "listed, not placed",
    "away, listed, not placed",
  ]);
});
