import { Button, Progress } from "antd";
import { type ReactNode, useEffect, useState } from "react";
import { isOver, useCancelJob, useJobs } from "../api/queries";
import type { Job, Place, Plan } from "../api/types";
import { left, percent } from "../frame/TopStrip";
import { useSessionId } from "../session/sessionContext";
import { count, number, size } from "../words";
import type { PlanRun } from "./usePlanRun";
import "./plans.css";

interface Props {
  run: PlanRun;
  /** The plan that follows from the station's present choices. */
  plan: Plan | null;
  planning: boolean;
  /** Why no plan could be made. */
  error: string | null;
  /** What the tray says while there is nothing to plan. */
  idle: ReactNode;
  applyWord: string;
  /** A way out of what stands against the plan. */
  offer?: ReactNode;
  /** Shown beside "Done". */
  after?: ReactNode;
}

/** At every station the same: what the present choices would do, apply, progress in place, then done and undo. */
export function PlanTray({ run, plan: stationPlan, planning, error, idle, applyWord, offer, after }: Props) {
  const [open, setOpen] = useState(false);
  const plan = run.undoPlan ?? stationPlan;
  const session = useSessionId();
  const { data: jobs = [] } = useJobs();
  const cancel = useCancelJob();
  // Told of only where it takes long, or has to wait.
  const work = planning ? jobs.find((j) => j.work === "Planning" && j.sessionId === session && !isOver(j)) : undefined;
  const canApply = plan !== null && plan.refusals.length === 0 && !run.busy && run.job === null;
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (e.ctrlKey && e.key === "Enter" && canApply && plan) {
        e.preventDefault();
        run.apply(plan);
      }
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [run, plan, canApply]);

  if (run.job) return <JobTray run={run} job={run.job} after={after} />;
  const trouble = run.error ?? (run.undoPlan ? null : error);
  return (
    <section className="tray" aria-label="Plan">
      <div className="tray-line">
        <div className="tray-words">
          {trouble ? (
            <p className="trouble" role="alert">
              {trouble}
            </p>
          ) : work ? (
            <p className="quiet" role="status">
              Working out the plan. <span className="mono">{left(work)}</span>
              {work.current && ` · ${work.current}`}
            </p>
          ) : plan ? (
            <PlanWords plan={plan} />
          ) : (
            <p className="quiet">{planning ? "Working out the plan." : idle}</p>
          )}
        </div>
        <div className="tray-actions">
          {(run.undoPlan || run.error) && <Button onClick={run.clear}>Leave it</Button>}
          {offer}
          {work && <Button onClick={() => cancel.mutate(work.id)}>Stop</Button>}
          {plan && plan.steps.length > 0 && (
            <Button type="text" onClick={() => setOpen(!open)} aria-expanded={open}>
              {open ? "Hide steps" : count(plan.steps.length, "step")}
            </Button>
          )}
          {plan && (
            <Button type="primary" disabled={!canApply} loading={run.busy} onClick={() => run.apply(plan)}>
              {run.undoPlan ? "Take it back" : applyWord}
            </Button>
          )}
        </div>
      </div>
      {open && plan && <Steps plan={plan} />}
    </section>
  );
}

function PlanWords({ plan }: { plan: Plan }) {
  return (
    <>
      <p className="plan-sentence">{plan.sentence}</p>
      {plan.refusals.map((refusal) => (
        <p className="trouble" role="alert" key={refusal}>
          {refusal}
        </p>
      ))}
      {plan.warnings.map((warning) => (
        <p className="warning" key={warning}>
          {warning}
        </p>
      ))}
    </>
  );
}

function JobTray({ run, job, after }: { run: PlanRun; job: Job; after: ReactNode }) {
  if (job.state === "Done") {
    return (
      <section className="tray done" aria-label="Plan">
        <div className="tray-line">
          {job.message ? (
            <p className="warning" role="status">
              <strong>Stopped in the middle.</strong> {job.message}
            </p>
          ) : (
            <p className="plan-sentence" role="status">
              <strong>Done.</strong> {job.sentence}
            </p>
          )}
          <div className="tray-actions">
            {after}
            {job.kind !== "Undo" && <Button onClick={() => run.planUndo(job.planId ?? undefined)}>Undo</Button>}
            <Button onClick={run.clear}>Go on</Button>
          </div>
        </div>
      </section>
    );
  }
  if (job.state === "Failed" || job.state === "Cancelled") {
    return (
      <section className="tray" aria-label="Plan">
        <div className="tray-line">
          <p className={job.state === "Failed" ? "trouble" : "plan-sentence"} role="alert">
            {job.message}
          </p>
          <div className="tray-actions">
            <Button onClick={run.clear}>Go on</Button>
          </div>
        </div>
      </section>
    );
  }
  return (
    <section className="tray" aria-label="Plan">
      <div className="tray-line">
        <div className="tray-words">
          <p className="plan-sentence">{job.sentence}</p>
          <Progress percent={percent(job)} size="small" status="active" />
          <p className="mono quiet">
            {`${number(job.filesDone)} of ${count(job.files, "step")} · ${left(job)}`}
            {job.current && ` · ${job.current}`}
          </p>
        </div>
        <div className="tray-actions">
          <Button onClick={run.cancel}>Cancel</Button>
        </div>
      </div>
    </section>
  );
}

const placeText = (place: Place) => (place.shelf ? `${place.shelf}: ${place.path}` : place.path);

/** What scrolls must be reached by the keyboard (WCAG 2.1.1). */
const scrolledByKeys = { tabIndex: 0 };

function Steps({ plan }: { plan: Plan }) {
  return (
    <section className="steps" aria-label="Steps of the plan" {...scrolledByKeys}>
      <table>
        <thead>
          <tr>
            <th>Step</th>
            <th>From</th>
            <th>To</th>
            <th className="c-num">Size</th>
            <th>Why</th>
          </tr>
        </thead>
        <tbody>
          {plan.steps.map((step) => (
            <tr key={step.verb + step.to.path}>
              <td>{step.verb}</td>
              <td className="path">{step.from ? placeText(step.from) : ""}</td>
              <td className="path">{placeText(step.to)}</td>
              <td className="c-num">{step.bytes > 0 ? size(step.bytes) : ""}</td>
              <td>{step.reason}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {plan.stepCount > plan.steps.length && (
        <p className="quiet">{`The first ${number(plan.steps.length)} of ${number(plan.stepCount)} steps.`}</p>
      )}
      {plan.contents.length > 0 && (
        <details open>
          <summary>{count(plan.contentCount, "file")} in the bundle</summary>
          <ul className="contents">
            {plan.contents.map((path) => (
              <li key={path} className="path">
                {path}
              </li>
            ))}
          </ul>
          {plan.contentCount > plan.contents.length && (
            <p className="quiet">{`And ${number(plan.contentCount - plan.contents.length)} more.`}</p>
          )}
        </details>
      )}
    </section>
  );
}
