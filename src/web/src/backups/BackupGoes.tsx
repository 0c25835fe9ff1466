import { Button } from "antd";
import { useEffect } from "react";
import { isOver } from "../api/queries";
import type { Job } from "../api/types";
import { useDraft } from "../frame/kept";
import { jobsInSight } from "../jobs/progress";
import { useWork } from "../jobs/useWork";
import { WorkGoes } from "../jobs/WorkGoes";
import css from "./backups.module.css";

/** So long it is told here what came of one, in milliseconds: the list of jobs remembers it for longer, over restarts as well. */
const toldForMs = 12 * 3600_000;

const isNews = (job: Job) => !isOver(job) || (!job.isByItself && Date.now() - Date.parse(job.ended ?? "") < toldForMs);

/** The last full backup of a session that somebody asked for: how far it is, what it came to, or why it failed; until it is put away. */
export function BackupGoes({ id }: { id: string }) {
  const [seen, setSeen] = useDraft<readonly string[]>("backups seen", []);
  const work = useWork((j) => j.work === "Backup" && j.sessionId === id && isNews(j));
  const job = work.running ?? work.last;
  const inSight = job && !seen.includes(job.id) ? job.id : null;
  useEffect(() => {
    if (!inSight) return;
    jobsInSight.add(inSight);
    return () => void jobsInSight.delete(inSight);
  }, [inSight]);
  if (!job || !inSight) return null;
  if (job.state === "Done" || job.state === "Failed" || job.state === "Cancelled")
    return (
      <div className={css.goes}>
        <p className={job.state === "Failed" ? "trouble" : ""} role={job.state === "Failed" ? "alert" : "status"}>
          {job.state === "Done" && <strong>Backed up. </strong>}
          {job.state === "Failed" && <strong>The backup failed. </strong>}
          {job.message}
        </p>
        <Button size="small" type="text" onClick={() => setSeen([...seen, job.id])}>
          Close
        </Button>
      </div>
    );
  return (
    <section className={css.goes} aria-label="Full backup">
      <WorkGoes work={work} of="file" />
    </section>
  );
}
