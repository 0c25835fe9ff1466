import { expect, test } from "vitest";
import type { Version } from "../src/api/types";
import { byDay, ledTo, shareOfDay, shareOfSpan, spanOf } from "../src/backups/days";

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

test("arrows go where they point: left and right in time, up and down by day, nearest in the hour", () => {
  const days = byDay([
    version("e", "2026-10-20T21:00:00"),
    version("d", "2026-10-20T08:00:00"),
    version("c", "2026-10-19T22:00:00"),
    version("b", "2026-10-19T06:00:00"),
    version("a", "2026-10-12T12:00:00"),
  ]);
  const led = (at: string, ...keys: string[]) => keys.map((key) => ledTo(days, at, key));
  expect(led("d", "ArrowRight", "ArrowLeft", "ArrowUp", "ArrowDown")).toEqual(["e", "c", null, "b"]);
  expect(led("c", "ArrowRight", "ArrowLeft", "ArrowUp", "ArrowDown")).toEqual(["d", "b", "e", "a"]);
  expect(led("a", "ArrowLeft", "ArrowDown", "ArrowUp")).toEqual([null, null, "b"]);
  expect(led("c", "Home", "End", "PageDown", "PageUp", "x")).toEqual(["b", "c", "a", "e", null]);
  expect(led("e", "PageUp", "PageDown")).toEqual([null, "a"]);
  expect(ledTo(days, "gone", "ArrowUp")).toBeNull();
});

test("the hours that were worked take all of the room", () => {
  const span = (...times: string[]) => spanOf(times.map((t) => version(t, `2026-10-19T${t}:00`)));
  expect(span("19:30", "23:36")).toEqual({ from: 19, to: 24, step: 1 });
  expect(span("20:00")).toEqual({ from: 20, to: 24, step: 1 });
  expect(span("23:59")).toEqual({ from: 20, to: 24, step: 1 });
  expect(span("08:15", "17:10")).toEqual({ from: 8, to: 18, step: 2 });
  expect(span("00:10", "23:50")).toEqual({ from: 0, to: 24, step: 6 });
  expect(spanOf([])).toEqual({ from: 0, to: 24, step: 6 });
  expect(shareOfSpan(version("a", "2026-10-19T21:30:00"), { from: 19, to: 24, step: 1 })).toBe(0.5);
});
