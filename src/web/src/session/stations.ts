import type { Inventory } from "../api/types";
import { count, rate, size } from "../words";

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
    waits: ({ files }: Inventory) => {
      const takes = files.filter((f) => f.take);
      const [growing, cutOff, waiting] = [
        takes.filter((f) => f.growing).length,
        takes.filter((f) => f.take?.needsRepair).length,
        takes.filter((f) => f.take?.isWaiting).length,
      ];
      if (growing > 0) return `${growing} growing now`;
      if (cutOff > 0) return `${cutOff} cut off`;
      if (waiting > 0) return `${count(waiting, "take")} on no list`;
      return takes.length === 0 ? "no takes yet" : count(takes.length, "take");
    },
  },
  "copy-in": {
    title: "Copy in",
    waits: ({ files }: Inventory) => {
      const outside = files.filter((f) => f.standing === "Outside" && !f.leftOut);
      const leftOut = files.filter((f) => f.standing === "Outside" && f.leftOut).length;
      return outside.length === 0
        ? leftOut > 0
          ? `${leftOut} left out by choice`
          : "nothing outside"
        : `${outside.length} outside, ${size(outside.reduce((sum, f) => sum + f.bytes, 0))}`;
    },
  },
  bundle: {
    title: "Bundle",
    waits: ({ files }: Inventory) => {
      const silent = files.filter((f) => f.standing === "Missing" || f.standing === "Away").length;
      return silent === 0 ? "nothing missing" : `${count(silent, "file")} not to be had`;
    },
  },
} as const;

export type StationKey = keyof typeof stations;

export const stationKeys = Object.keys(stations) as StationKey[];

/** True when somebody should go to the station. */
export const isWaiting = (key: StationKey, inventory: Inventory) =>
  (key === "record" && inventory.files.some((f) => f.take?.needsRepair || f.take?.isWaiting)) ||
  (key === "copy-in" && inventory.files.some((f) => f.standing === "Outside" && !f.leftOut)) ||
  (key === "bundle" && inventory.files.some((f) => f.standing === "Missing" || f.standing === "Away"));
