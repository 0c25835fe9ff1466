import type { CopyKind } from "../api/types";

/** The kinds in which people think of what is copied in. */
export const kindWord: Record<CopyKind, string> = {
  Audio: "Audio",
  Instruments: "Instruments with their samples",
  ImpulseResponses: "Impulse responses",
  Video: "Video",
  Other: "Other",
};

/** All of them, in the order in which they are shown. */
export const copyKinds = Object.keys(kindWord) as CopyKind[];

/** What stays out once a kind is taken in, or left out. */
export const withKind = (out: readonly CopyKind[], kind: CopyKind, isIn: boolean): CopyKind[] =>
  copyKinds.filter((k) => (k === kind ? !isIn : out.includes(k)));
