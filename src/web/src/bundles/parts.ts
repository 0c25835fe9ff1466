import type { BundlePart, BundleParts } from "../api/types";

/** What each part is called on the slip, and what leaving it out means. */
export const partWord: Record<BundlePart, string> = {
  Unplaced: "Takes and files that nothing places",
  Renders: "Renders",
  Bounces: "Bounces",
  Video: "Video",
  OlderVersions: "Older versions, and what only they need",
  KeptSaves: "Kept saves",
  OtherFiles: "Other files, as lyrics and charts",
  StockContent: "Stock content",
  PrintedTracks: "Printed tracks",
};

interface Line {
  part: BundlePart;
  files: number;
  bytes: number;
  goes: boolean;
}

/** The lines of the slip that can be chosen, and what goes in all. What the session has none of is no choice. */
export function slipLines(parts: BundleParts, chosen: readonly BundlePart[]) {
  const lines: Line[] = parts.parts.flatMap(({ part, files, bytes }) =>
    part ? [{ part, files, bytes, goes: chosen.includes(part) }] : [],
  );
  const always = parts.parts.find((p) => !p.part);
  const going = lines.filter((l) => l.goes);
  return {
    lines,
    always: { files: always?.files ?? 0, bytes: always?.bytes ?? 0 },
    total: {
      files: going.reduce((sum, l) => sum + l.files, always?.files ?? 0),
      bytes: going.reduce((sum, l) => sum + l.bytes, always?.bytes ?? 0),
    },
  };
}

/** The parts with one in or out, in the order of the slip, so that the same choice is the same plan. */
export const withPart = (chosen: readonly BundlePart[], part: BundlePart, goes: boolean): BundlePart[] =>
  (Object.keys(partWord) as BundlePart[]).filter((p) => (p === part ? goes : chosen.includes(p)));
