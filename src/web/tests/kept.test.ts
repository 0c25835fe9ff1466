import { expect, it } from "vitest";
import { shaped } from "../src/frame/kept";

it("what another version kept is brought into shape", () => {
  expect(shaped({ a: 1 }, { a: 0, b: 2 })).toEqual({ a: 1, b: 2 });
  expect(shaped("x", { a: 0 })).toEqual({ a: 0 });
  expect(shaped([1], { a: 0 })).toEqual({ a: 0 });
  expect(shaped({ a: 1 }, [])).toEqual([]);
  expect(shaped("x", 5)).toBe(5);
  expect(shaped(undefined, "first")).toBe("first");
  expect(shaped("YYMMDD", null)).toBe("YYMMDD");
});
