import { useMemo, useState } from "react";
import type { FileEntry, Inventory } from "../api/types";
import type { Segment } from "../weighbridge/Weighbridge";

/** The files of the chosen segment of the weighbridge, and the one that the file tag shows. */
export function useSegment(inventory: Inventory, initial: Segment | null = null) {
  const [segment, setSegment] = useState(initial);
  const [active, setActive] = useState<string | null>(null);
  const files = useMemo(
    () => inventory.files.filter((f) => !segment || (f.standing === segment.standing && f.use === segment.use)),
    [inventory.files, segment],
  );
  const activeFile: FileEntry | undefined = inventory.files.find((f) => f.id === active);
  return { segment, setSegment, files, active, setActive, activeFile };
}
