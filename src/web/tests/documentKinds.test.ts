import { expect, it } from "vitest";
import { endingOf } from "../src/api/documentKinds";

it("a file is of a kind by its ending, in any case; what is hidden or has none is of no kind", () => {
  expect(["Songs/One.Desk", "a.b.reel", ".hidden", "none", "ends.", "v.1/none"].map(endingOf)).toEqual([
    ".desk",
    ".reel",
    null,
    null,
    null,
    null,
  ]);
});
