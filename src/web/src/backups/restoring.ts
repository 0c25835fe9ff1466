import type { FolderChoice } from "../shelves/FolderPicker";

export type RestoringWay = "none" | "document" | "tracks" | "files" | "session";

/** What is to come back of the chosen version. */
export interface Restoring {
  way: RestoringWay;
  tracks: readonly string[];
  paths: readonly string[];
  place: FolderChoice;
  name: string;
}

export const nothingBack: Restoring = {
  way: "none",
  tracks: [],
  paths: [],
  place: { shelfId: undefined, path: "" },
  name: "",
};

/** Whether enough is chosen for a plan. */
export const isEnough = ({ way, tracks, paths, place, name }: Restoring) =>
  way === "document" ||
  (way === "tracks" && tracks.length > 0) ||
  (way === "files" && paths.length > 0) ||
  (way === "session" && place.shelfId !== undefined && name.trim().length > 0);
