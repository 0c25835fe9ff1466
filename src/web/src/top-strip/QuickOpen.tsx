import { Button } from "antd";
import { lazy, Suspense, useState } from "react";
import { useShortcut } from "../frame/keys";

const OpenDialog = lazy(() => import("./OpenDialog").then((m) => ({ default: m.OpenDialog })));

/** Opens a session, or another page, by a part of its name. */
export function QuickOpen() {
  const [open, setOpen] = useState(false);
  useShortcut("o", () => setOpen(true));
  return (
    <>
      <Button size="small" type="text" title="Open a session by its name (O)" onClick={() => setOpen(true)}>
        Open
      </Button>
      {open && (
        <Suspense>
          <OpenDialog onClose={() => setOpen(false)} />
        </Suspense>
      )}
    </>
  );
}
