import { Button, Progress } from "antd";
import { isOver, useCancelJob, useOfJobs } from "../api/queries";
import css from "./look-goes.module.css";
import { left, percent } from "./progress";

/** How far a look is for which much has to be read once; nothing where it is over before anybody could read that. */
export function LookGoes({ sessionId }: { sessionId: string }) {
  const job = useOfJobs(
    (jobs) => jobs.find((j) => j.work === "Look" && j.sessionId === sessionId && !isOver(j)) ?? null,
  );
  const cancel = useCancelJob();
  if (!job) return null;
  return (
    <div className={css.lookGoes} role="status">
      <span>{job.sentence}</span>
      <Progress percent={percent(job)} size="small" />
      <span className="mono quiet">{left(job)}</span>
      <Button size="small" loading={cancel.isPending} onClick={() => cancel.mutate(job.id)}>
        Stop
      </Button>
    </div>
  );
}
