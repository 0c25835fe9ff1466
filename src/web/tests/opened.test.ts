import { expect, test } from "vitest";
import type { OpenedBundle, TrackOpening } from "../src/api/types";
import { heard } from "../src/bundles/AsTheyFindIt";

const opened = (...openings: TrackOpening[]): OpenedBundle => ({
  recipient: "Idris Falk",
  document: "data/Low Water/Low Water.otio",
  readsDocument: true,
  tracks: openings.map((opening) => ({ name: "Cello", opening, lacks: [], forInstruments: 0, effects: [] })),
  prints: [],
  notThere: [],
  handedOver: [],
  tooLarge: [],
  transferSeconds: 0,
});

test("what is heard there is said in one sentence", () => {
  expect(heard(opened("Sounds", "Quiet"))).toBe("Every track sounds.");
  expect(heard(opened("Sounds", "Silent"))).toBe("1 track of 2 will not sound as it does here.");
  expect(heard(opened("InPart", "Silent", "Sounds"))).toBe("2 tracks of 3 will not sound as they do here.");
  expect(heard(opened())).toBe("The document tells nothing of tracks that we can read.");
});

test("a track without its effect does not sound as here, and nothing placed is no sound", () => {
  const [track] = opened("Sounds").tracks;
  const dry = { ...opened("Sounds"), tracks: track ? [track, { ...track, effects: ["Stairwell echo"] }] : [] };
  expect(heard(dry)).toBe("1 track of 2 will not sound as it does here.");
  expect(heard(opened("Quiet", "Quiet"))).toBe("Nothing is placed on any track.");
});

test("a document that they cannot read sounds by its printed tracks alone", () => {
  const closed = { ...opened("Sounds"), readsDocument: false };
  expect(heard(closed)).toContain("no printed tracks are in it");
  expect(heard({ ...closed, prints: ["01 Cello.wav"] })).toContain("1 printed track");
  expect(heard({ ...opened("Sounds"), document: null })).toContain("no document");
});
