import { readFileSync } from "node:fs";
import { describe, expect, it } from "vitest";
import {
  count,
  dayOf,
  duration,
  parseDuration,
  parsePosition,
  parseTimeOfDay,
  position,
  positionToTenths,
  rate,
  size,
  soundLength,
} from "../src/words";

type Rows = readonly (readonly [number, string])[];

/** The table that sentences of the server are checked by, too. */
const figures = JSON.parse(
  readFileSync(new URL("../../../tests/Shared/figures.json", import.meta.url), "utf8"),
) as Record<"sizes" | "rates" | "counts" | "durations", Rows>;

describe("figures are written as in sentences of the server", () => {
  it.each(figures.sizes)("size of %d is %s", (bytes, text) => expect(size(bytes)).toBe(text));
  it.each(figures.rates)("rate of %d is %s", (hz, text) => expect(rate(hz)).toBe(text));
  it.each(figures.counts)("count of %d is %s", (n, text) => expect(count(n, "file")).toBe(text));
  it.each(figures.durations)("duration of %d is %s", (seconds, text) => expect(duration(seconds)).toBe(text));
});

describe("times that are typed", () => {
  it.each([
    ["3:20", 200],
    ["1:02:03", 3723],
    ["45", 45],
    [" 0:07 ", 7],
    ["1:75", null],
    ["", null],
    ["x", null],
  ] as const)("%j is %j seconds long", (text, seconds) => expect(parseDuration(text)).toBe(seconds));

  it.each([
    ["2:30.5", 150.5],
    ["2:30,25", 150.25],
    ["90", 90],
    ["1:60", null],
    ["-1", null],
  ] as const)("%j is at %j seconds", (text, seconds) => expect(parsePosition(text)).toBe(seconds));

  it("is read as it is written", () => {
    for (const seconds of [0, 7, 59, 60, 3599, 3600, 86_399]) expect(parseDuration(duration(seconds))).toBe(seconds);
  });
});

it("one-shots are told to the hundredth", () => {
  expect([0.4, 1.2, 9.994, 9.996, 61].map(soundLength)).toEqual(["0:00.40", "0:01.20", "0:09.99", "0:09", "1:01"]);
});

it("a place before the start has a sign", () =>
  expect([65, -10, -0.2].map(position)).toEqual(["1:05", "-0:10", "0:00"]));

it("the day is read from the name", () => {
  expect(dayOf("261014 Net Mender")).toEqual({ day: "14", month: "OCT", year: "2026", rest: "Net Mender" });
  expect([dayOf("Net Mender"), dayOf("261314 x"), dayOf("261000 x")]).toEqual([null, null, null]);
});

describe("a time to the tenth", () => {
  it.each([
    [0, "0:00"],
    [13, "0:13"],
    [13.5, "0:13.5"],
    [12.99, "0:13"],
    [3600.1, "1:00:00.1"],
  ] as const)("%d s is %s, and is read back", (seconds, text) => {
    expect(positionToTenths(seconds)).toBe(text);
    if (seconds < 3600) expect(parsePosition(text)).toBeCloseTo(seconds, 1);
  });
});

describe("a time of day", () => {
  it.each([
    ["9:05", "09:05"],
    ["23.30", "23:30"],
    ["24:00", null],
    ["11:60", null],
    ["9 pm", null],
  ] as const)("%j is %j", (text, time) => expect(parseTimeOfDay(text)).toBe(time));
});
