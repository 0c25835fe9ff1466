import { expect, it } from "vitest";
import type { Preset } from "../src/api/types";
import { asPreset, withTyped } from "../src/set-up/presets";

const preset = (name: string, ...parts: [Preset["nameParts"][number]["kind"], string][]) =>
  ({ name, nameParts: parts.map(([kind, text]) => ({ kind, text })) }) as unknown as Preset;

const typed = preset(
  "Plain song",
  ["Date", "YYMMDD"],
  ["WorkingTitle", "Gull"],
  ["FreeText", "demo"],
  ["Version", "2"],
);

it("a preset keeps nothing that names one session", () => {
  expect(asPreset(typed).nameParts.map((p) => p.text)).toEqual(["YYMMDD", "", "demo", ""]);
  expect(typed.nameParts[1]?.text).toBe("Gull");
});

it("choosing a preset keeps what was typed, part by part of each kind", () => {
  const band = preset(
    "Band",
    ["Date", "DDMMYY"],
    ["Artist", "Lamplighters"],
    ["WorkingTitle", ""],
    ["FreeText", "x"],
    ["FreeText", "y"],
  );
  expect(withTyped(band, typed).nameParts.map((p) => p.text)).toEqual(["DDMMYY", "Lamplighters", "Gull", "demo", "y"]);
});
