import type { Inventory } from "../api/types";
import type { PlanRun } from "./usePlanRun";

/** What every station gets: the session as it is, and what its tray is doing. */
export interface StationProps {
  inventory: Inventory;
  run: PlanRun;
}
