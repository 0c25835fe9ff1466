import { lazy, Suspense } from "react";
import { useShowInFolder } from "../api/queries";
import type { FileEntry } from "../api/types";
import { useCopyPath } from "../frame/copyPath";
import type { RareAction } from "../frame/rareActions";
import { useSessionId } from "../frame/sessionContext";
import { useTell } from "../frame/Tell";
import { isOfSession } from "../listening/mediaSource";

const OpenMenu = lazy(() => import("../frame/OpenMenu").then((m) => ({ default: m.OpenMenu })));

interface Props {
  file: FileEntry;
  at: { x: number; y: number };
  /** What the list and its station can do with it. */
  own: readonly RareAction[];
  onClose: () => void;
}

/** All that can be done with a file of a list, at its row. */
export function FileMenu({ file, at, own, onClose }: Props) {
  const id = useSessionId();
  const copy = useCopyPath();
  const tell = useTell();
  const { path, show } = useShowInFolder(id);
  const isThere = file.standing === "Inside" || file.standing === "Outside";
  const failed = (e: Error) => tell.error(e.message);
  return (
    <Suspense>
      <OpenMenu
        at={at}
        onClose={onClose}
        actions={[
          ...own,
          ...(isOfSession(file)
            ? [
                {
                  label: "Show in the folder",
                  disabled: !isThere,
                  act: () => show.mutate(file.id, { onError: failed }),
                },
                {
                  label: "Copy path",
                  act: () => path.mutate(file.id, { onError: failed, onSuccess: (p) => void copy(p) }),
                },
              ]
            : []),
        ]}
      />
    </Suspense>
  );
}
