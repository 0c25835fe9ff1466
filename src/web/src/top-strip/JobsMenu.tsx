import { Button, Popover } from "antd";
import { lazy, Suspense, useRef, useState } from "react";
import { useIsConnected } from "../api/connection";
import { isOver, useJobs } from "../api/queries";
import { useKeys, useShortcut } from "../frame/keys";
import { percent } from "../jobs/progress";
import { count } from "../words";

const JobsPanel = lazy(() => import("./JobsPanel").then((m) => ({ default: m.JobsPanel })));

/** All work that runs or ran, whichever page one is on. */
export function JobsMenu() {
  const { data: jobs = [] } = useJobs();
  const isConnected = useIsConnected();
  const [open, setOpen] = useState(false);
  const button = useRef<HTMLButtonElement>(null);
  const running = jobs.filter((j) => !isOver(j));
  const [first] = running;
  useShortcut("j", () => setOpen(!open));
  useKeys((e) => {
    if (e.key !== "Escape" || !open) return;
    setOpen(false);
    button.current?.focus();
  });
  return (
    <Popover
      open={open}
      onOpenChange={setOpen}
      trigger="click"
      placement="bottomRight"
      content={
        <Suspense>
          <JobsPanel onGo={() => setOpen(false)} />
        </Suspense>
      }
    >
      <Button ref={button} size="small" type={first ? "default" : "text"} aria-expanded={open} title="Jobs (J)">
        {first ? `${count(running.length, "job")} · ${isConnected ? `${percent(first)} %` : "not known"}` : "Jobs"}
      </Button>
    </Popover>
  );
}
