import { Button, Popover } from "antd";
import { lazy, Suspense, useRef, useState } from "react";
import { useIsConnected } from "../api/connection";
import { isOver, useOfJobs } from "../api/queries";
import { useKeys, useShortcut } from "../frame/keys";
import { percent } from "../jobs/progress";
import { count } from "../words";
import css from "./top-strip.module.css";

const JobsPanel = lazy(() => import("./JobsPanel").then((m) => ({ default: m.JobsPanel })));

/** All work that runs or ran, whichever page one is on. */
export function JobsMenu() {
  const isConnected = useIsConnected();
  const [open, setOpen] = useState(false);
  const button = useRef<HTMLButtonElement>(null);
  // What is done by the way stands in the list, and moves nothing here: the strip would jump with every file that is read.
  const running = useOfJobs((jobs) => {
    const asked = jobs.filter((j) => !isOver(j) && !j.isByItself);
    return asked[0] ? { jobs: asked.length, percent: percent(asked[0]) } : null;
  });
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
      <Button
        ref={button}
        className={running ? (css.jobsRun ?? "") : ""}
        size="small"
        type={running ? "default" : "text"}
        aria-expanded={open}
        title="Jobs (J)"
      >
        {running ? `${count(running.jobs, "job")} · ${isConnected ? `${running.percent} %` : "not known"}` : "Jobs"}
      </Button>
    </Popover>
  );
}
