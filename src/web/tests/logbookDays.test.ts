import { expect, test } from "vitest";
import type { Version } from "../src/api/types";
import { byDay, shareOfDay } from "../src/backups/days";

const version = (key: string, saved: string) => ({ key, saved }) as Version;

test("versions stand in their days, the newest day first and the earliest hour first", () => {
  const days = byDay([
    version("c", "2026-10-20T08:00:00"),
    version("b", "2026-10-19T22:00:00"),
    version("a", "2026-10-19T06:00:00"),
  ]);
  expect(days.map((d) => [d.date, d.versions.map((v) => v.key)])).toEqual([
    ["2026-10-20", ["c"]],
    ["2026-10-19", ["a", "b"]],
  ]);
});

test("a mark stands where its hour is", () => {
  expect(shareOfDay(version("a", "2026-10-19T00:00:00"))).toBe(0);
  expect(shareOfDay(version("a", "2026-10-19T18:00:00"))).toBe(0.75);
});
