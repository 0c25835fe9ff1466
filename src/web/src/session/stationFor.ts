import type { SessionLabel } from "../api/types";
import type { StationKey } from "./stations";

type Attention = SessionLabel["attention"];

/** Where what a session needs is done. */
export const stationFor: Partial<Record<Attention, StationKey>> = {
  AtRisk: "copy-in",
  Silent: "relink",
  OnlyHere: "backups",
};

/** Where a session opens: where something is silent or may be, else at its set-up; a backup waits until one presses for it. */
export const opensAt = (attention: Attention): StationKey =>
  attention === "OnlyHere" ? "set-up" : (stationFor[attention] ?? "set-up");
