import { describe, expect, it } from "vitest";
import type { LostEntry } from "../src/api/types";
import { isCertain, takeable, takenFor } from "../src/relink/choices";

const lost = (whereabouts: string, certainty: string, isThere = true) =>
  ({
    id: "a",
    standing: "Missing",
    mark: "None",
    whereabouts,
    best: { id: "b", certainty, isThere },
  }) as unknown as LostEntry;

describe("what is taken for a missing file", () => {
  it("is what is certain, unless somebody chose otherwise", () => {
    expect(takenFor(lost("Moved", "SameBytes"), {})).toBe("b");
    expect(takenFor(lost("Moved", "None"), {})).toBeNull();
    expect(takenFor(lost("Moved", "SameBytes"), { a: null })).toBeNull();
  });

  it("is never another sound together with others: that is taken by itself, where it is heard", () => {
    expect(takeable(lost("Moved", "None"))).toBe(true);
    expect(takeable(lost("AnotherVersion", "None"))).toBe(false);
    expect(takenFor(lost("AnotherVersion", "None"), {})).toBeNull();
    expect(takenFor(lost("AnotherVersion", "None"), { a: "b" })).toBe("b");
    expect(takeable(lost("Moved", "SameBytes", false))).toBe(false);
  });

  it("is taken with many others at once only where it is certain and can be had", () => {
    expect(isCertain(lost("Moved", "SameBytes"))).toBe(true);
    expect(isCertain(lost("Moved", "None"))).toBe(false);
    expect(isCertain(lost("Moved", "SameBytes", false))).toBe(false);
    expect(isCertain(lost("AnotherVersion", "SameBytes"))).toBe(false);
  });
});
