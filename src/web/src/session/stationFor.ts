import type { SessionLabel } from "../api/types";
import type { StationKey } from "./stations";

/** Where what a session needs is done. */
export const stationFor: Partial<Record<SessionLabel["attention"], StationKey>> = {
  AtRisk: "copy-in",
  Silent: "relink",
};
