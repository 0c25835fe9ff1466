import { useQueries } from "@tanstack/react-query";
import { Button, Progress } from "antd";
import { Link, useNavigate } from "react-router";
import { historyQuery, isOver, useCancelJob, useJobs } from "../api/queries";
import type { Job } from "../api/types";
import { isAsked, left, percent } from "../jobs/progress";
import { SystemNotices } from "../jobs/SystemNotices";
import { planUndo } from "../plans/usePlanRun";
import { ago } from "../words";
import css from "./jobs.module.css";

/** So many that are over stay in the list. */
const mostOver = 12;

const stateWord: Partial<Record<Job["state"], string>> = { Done: "done", Failed: "failed", Cancelled: "cancelled" };

/** What runs and what ran, in all sessions: how far it is, cancel, undo, and the way to its session. */
export function JobsPanel({ onGo }: { onGo: () => void }) {
  const { data: jobs = [] } = useJobs();
  const running = jobs.filter((j) => !isOver(j));
  const over = jobs.filter((j) => isOver(j) && (isAsked(j) || j.state === "Failed")).slice(0, mostOver);
  return (
    <section className={css.jobs} aria-label="Jobs">
      {running.length + over.length === 0 && <p className="quiet">Nothing runs, and nothing was done yet.</p>}
      <ul>
        {running.map((job) => (
          <RunningJob key={job.id} job={job} />
        ))}
      </ul>
      {over.length > 0 && <EndedJobs jobs={over} onGo={onGo} />}
      <SystemNotices />
    </section>
  );
}

function RunningJob({ job }: { job: Job }) {
  const cancel = useCancelJob();
  return (
    <li>
      <p>{job.sentence}</p>
      <Progress percent={percent(job)} size="small" />
      <p className={css.jobLine}>
        <span className="mono quiet">{left(job)}</span>
        {job.sessionId && <Link to={`/sessions/${job.sessionId}`}>To the session</Link>}
        <Button size="small" loading={cancel.isPending} onClick={() => cancel.mutate(job.id)}>
          Cancel
        </Button>
      </p>
      {cancel.error && <p className="trouble">{cancel.error.message}</p>}
    </li>
  );
}

/** What is over, with undo where the history of its session says that it can be undone. */
function EndedJobs({ jobs, onGo }: { jobs: readonly Job[]; onGo: () => void }) {
  const navigate = useNavigate();
  const sessions = [...new Set(jobs.flatMap((j) => (j.sessionId ? [j.sessionId] : [])))];
  const histories = useQueries({ queries: sessions.map(historyQuery) });
  const undoable = new Set(histories.flatMap((h) => h.data ?? []).flatMap((h) => (h.canUndo ? [h.planId] : [])));
  return (
    <ul>
      {jobs.map((job) => (
        <li key={job.id}>
          <p className={job.state === "Failed" ? "trouble" : ""}>{job.message ?? job.sentence}</p>
          <p className={css.jobLine}>
            <span className="quiet">{`${stateWord[job.state] ?? ""}${job.ended ? `, ${ago(job.ended)}` : ""}`}</span>
            {job.sessionId && (
              <Link to={`/sessions/${job.sessionId}`} onClick={onGo}>
                To the session
              </Link>
            )}
            {job.sessionId && job.planId && undoable.has(job.planId) && (
              <Button
                size="small"
                onClick={() => {
                  onGo();
                  void planUndo(job.sessionId ?? "", job.planId ?? "");
                  navigate(`/sessions/${job.sessionId}`);
                }}
              >
                Undo
              </Button>
            )}
          </p>
        </li>
      ))}
    </ul>
  );
}
