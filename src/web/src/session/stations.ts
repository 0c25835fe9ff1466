import type { Inventory } from "../api/types";
import { count, rate, size } from "../words";

/** How many files nobody can hear at this moment. */
const silentFiles = ({ session }: Inventory) =>
  session.weights.filter((w) => w.standing === "Missing" || w.standing === "Away").reduce((sum, w) => sum + w.files, 0);

/** The stations of the work, in its order, and what each says waits there. */
export const stations = {
  "set-up": {
    title: "Set up",
    waits: ({ settings }: Inventory) =>
      settings
        ? `${rate(settings.sampleRate)}, ${settings.bitDepth} bit, ${settings.tempo} in ${settings.timeSignature}`
        : "adopted as it is",
  },
  record: {
    title: "Record",
    waits: ({ takes }: Inventory) => {
      if (takes.growing > 0) return `${takes.growing} growing now`;
      if (takes.cutOff > 0) return `${takes.cutOff} cut off`;
      if (takes.waiting > 0) return `${count(takes.waiting, "take")} on no list`;
      return takes.files === 0 ? "no takes yet" : count(takes.files, "take");
    },
  },
  "copy-in": {
    title: "Copy in",
    waits: ({ outside }: Inventory) =>
      outside.taken === 0
        ? outside.leftOut > 0
          ? `${outside.leftOut} left out by choice`
          : "nothing outside"
        : `${outside.taken} outside, ${size(outside.takenBytes)}`,
  },
  bundle: {
    title: "Bundle",
    waits: (inventory: Inventory) => {
      const silent = silentFiles(inventory);
      return silent === 0 ? "nothing missing" : `${count(silent, "file")} unavailable`;
    },
  },
} as const;

export type StationKey = keyof typeof stations;

export const stationKeys = Object.keys(stations) as StationKey[];

/** True when somebody should go to the station. */
export const isWaiting = (key: StationKey, inventory: Inventory) =>
  (key === "record" && inventory.takes.cutOff + inventory.takes.waiting > 0) ||
  (key === "copy-in" && inventory.outside.taken > 0) ||
  (key === "bundle" && silentFiles(inventory) > 0);
