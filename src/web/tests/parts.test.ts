import { expect, test } from "vitest";
import type { BundleParts } from "../src/api/types";
import { slipLines, withPart } from "../src/bundles/parts";

const parts: BundleParts = {
  parts: [
    { part: null, files: 5, bytes: 500 },
    { part: "Bounces", files: 1, bytes: 40 },
    { part: "OlderVersions", files: 2, bytes: 3 },
    { part: "PrintedTracks", files: 4, bytes: 1000 },
  ],
  standard: ["Unplaced", "OlderVersions"],
  prints: [],
};

test("what is played always goes, and with it what is chosen; a part that the session has none of is no line", () => {
  const { lines, always, total } = slipLines(parts, ["OlderVersions", "Unplaced"]);
  expect(always).toEqual({ files: 5, bytes: 500 });
  expect(lines.map((l) => [l.part, l.goes])).toEqual([
    ["Bounces", false],
    ["OlderVersions", true],
    ["PrintedTracks", false],
  ]);
  expect(total).toEqual({ files: 7, bytes: 503 });
});

test("one part in or out, and the same choice is written the same, however it came about", () => {
  expect(withPart(["PrintedTracks", "Unplaced"], "Bounces", true)).toEqual(["Unplaced", "Bounces", "PrintedTracks"]);
  expect(withPart(["Bounces", "Unplaced"], "Bounces", false)).toEqual(["Unplaced"]);
});
