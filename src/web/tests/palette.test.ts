import { describe, expect, it } from "vitest";
import { day, night, type Palette } from "../src/theme/palette";

/** Relative luminance and contrast as WCAG 2.2 defines them. */
function luminance(hex: string): number {
  const [r = 0, g = 0, b = 0] = [1, 3, 5]
    .map((at) => Number.parseInt(hex.slice(at, at + 2), 16) / 255)
    .map((c) => (c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4));
  return 0.2126 * r + 0.7152 * g + 0.0722 * b;
}
const contrast = (a: string, b: string) => {
  const [dark = 0, light = 0] = [luminance(a), luminance(b)].toSorted((x, y) => x - y);
  return (light + 0.05) / (dark + 0.05);
};

const grounds: readonly (keyof Palette)[] = ["paper", "sheet", "raised"];

it("contrast is measured as published", () => {
  // Worked examples: black on white is 21 : 1, and #767676 is the lightest grey that text on white may have.
  expect(contrast("#000000", "#ffffff")).toBeCloseTo(21, 5);
  expect(contrast("#767676", "#ffffff")).toBeGreaterThanOrEqual(4.5);
  expect(contrast("#777777", "#ffffff")).toBeLessThan(4.5);
});

describe.each([
  ["day", day],
  ["night", night],
] as const)("by %s", (_, palette) => {
  it.each(grounds)("text stands out on %s", (ground) => {
    for (const text of ["ink", "quiet", "faint"] as const)
      expect(contrast(palette[text], palette[ground]), text).toBeGreaterThanOrEqual(4.5);
  });
  it.each([...grounds, "chosen"] as const)("the ring of the keyboard stands out on %s (WCAG 1.4.11)", (ground) => {
    expect(contrast(palette.ring, palette[ground])).toBeGreaterThanOrEqual(3);
  });
  it.each(grounds)("borders of fields stand out on %s (WCAG 1.4.11)", (ground) => {
    expect(contrast(palette.edge, palette[ground])).toBeGreaterThanOrEqual(3);
  });
  it("marks of where files stand stand out from each other's ground", () => {
    for (const mark of ["inside", "outside", "away", "missing", "bounce"] as const)
      expect(contrast(palette[mark], palette.raised), mark).toBeGreaterThanOrEqual(3);
  });
});
