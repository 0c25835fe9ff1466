import { notification } from "antd";
import { useEffect, useEffectEvent, useRef } from "react";
import { useNavigate } from "react-router";
import { isOver, useJobs } from "../api/queries";
import type { Job } from "../api/types";
import { isAsked, jobsInSight } from "../jobs/progress";
import { tellBySystem } from "../jobs/systemNotices";

const titleOf = ({ state, work }: Job) =>
  state === "Done" ? (work === "Backup" ? "Backed up" : "Done") : state === "Failed" ? "Failed" : "Cancelled";

/** Tells that work ended or failed, wherever one is; where a tray shows it, that says so. */
export function JobNews() {
  const { data: jobs } = useJobs();
  const [notices, place] = notification.useNotification();
  const navigate = useNavigate();
  const known = useRef<ReadonlyMap<string, boolean> | null>(null);
  const tell = useEffectEvent((job: Job) => {
    // What Neat Crate does by itself is told where it failed; what somebody asked for, also where it is done.
    if (!isAsked(job) && job.state !== "Failed") return;
    tellBySystem(
      titleOf(job),
      job.message ?? job.sentence,
      () => job.sessionId && navigate(`/sessions/${job.sessionId}`),
    );
    if (jobsInSight.has(job.id)) return;
    notices.open({
      key: job.id,
      type: job.state === "Done" && !job.message ? "success" : "warning",
      title: titleOf(job),
      description: job.message ?? job.sentence,
      duration: job.state === "Done" ? 8 : 0,
      placement: "bottomRight",
      ...(job.sessionId && {
        onClick: () => {
          notices.destroy(job.id);
          navigate(`/sessions/${job.sessionId}`);
        },
      }),
    });
  });
  useEffect(() => {
    if (!jobs) return;
    // What was over when the page was loaded is no news.
    const before = known.current;
    if (before) for (const job of jobs) if (isOver(job) && before.get(job.id) === false) tell(job);
    known.current = new Map(jobs.map((j) => [j.id, isOver(j)]));
  }, [jobs]);
  return place;
}
