import { useEffect, useEffectEvent } from "react";
import { useTell } from "../frame/Tell";

/** Where files are dropped and no session is open, it is said where they can go: what was dropped must not vanish without a word. */
export function useDropElsewhere(isInSession: boolean) {
  const tell = useTell();
  const drop = useEffectEvent((e: DragEvent) => {
    if (isInSession || !e.dataTransfer?.types.includes("Files")) return;
    tell.info(
      "Nothing was taken in. Open the session that these files belong to and drop them there; a folder that is a session is adopted at “Adopt a folder”.",
      8,
    );
  });
  useEffect(() => {
    const hear = (e: DragEvent) => drop(e);
    window.addEventListener("drop", hear);
    return () => window.removeEventListener("drop", hear);
  }, []);
}
