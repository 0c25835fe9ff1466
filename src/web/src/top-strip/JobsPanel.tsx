import { useQueries } from "@tanstack/react-query";
import { Button } from "antd";
import { Link, useNavigate } from "react-router";
import { historyQuery, isOver, useJobs, useSessions } from "../api/queries";
import type { Job } from "../api/types";
import { isAsked } from "../jobs/progress";
import { SystemNotices } from "../jobs/SystemNotices";
import { useWork } from "../jobs/useWork";
import { WorkGoes } from "../jobs/WorkGoes";
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
          <RunningJob key={job.id} id={job.id} />
        ))}
      </ul>
      {over.length > 0 && <EndedJobs jobs={over} onGo={onGo} />}
      <SystemNotices />
    </section>
  );
}

function RunningJob({ id }: { id: string }) {
  const work = useWork((j) => j.id === id);
  const session = work.running?.sessionId;
  return (
    <li>
      <WorkGoes
        work={work}
        of={work.running?.work === "Apply" ? "step" : "file"}
        beside={session && <Link to={`/sessions/${session}`}>To the session</Link>}
      />
    </li>
  );
}

/** What is over, with undo where the history of its session says that it can be undone. */
function EndedJobs({ jobs, onGo }: { jobs: readonly Job[]; onGo: () => void }) {
  const navigate = useNavigate();
  const { data: known } = useSessions();
  // What was done in a session is told after it was taken off the list, too; there is no way to it any more.
  const isKnown = (id: string) => known?.some((s) => s.id === id) ?? false;
  const sessions = [...new Set(jobs.flatMap((j) => (j.sessionId && isKnown(j.sessionId) ? [j.sessionId] : [])))];
  const histories = useQueries({ queries: sessions.map(historyQuery) });
  const undoable = new Set(histories.flatMap((h) => h.data ?? []).flatMap((h) => (h.canUndo ? [h.planId] : [])));
  return (
    <ul>
      {jobs.map((job) => (
        <li key={job.id}>
          <p className={job.state === "Failed" ? "trouble" : ""}>{job.message ?? job.sentence}</p>
          <p className={css.jobLine}>
            <span className="quiet">{`${stateWord[job.state] ?? ""}${job.ended ? `, ${ago(job.ended)}` : ""}`}</span>
            {job.sessionId && isKnown(job.sessionId) && (
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
