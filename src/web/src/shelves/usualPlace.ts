import { useRemembered } from "../frame/kept";
import type { FolderChoice } from "./FolderPicker";

/** Where new sessions go unless another folder is chosen; no shelf where nothing was chosen. */
export const useUsualPlace = () => useRemembered<FolderChoice>("usual place", { shelfId: undefined, path: "" });
