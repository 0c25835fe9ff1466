import { Button, Progress } from "antd";
import { type ReactNode, useEffect, useRef, useState } from "react";
import { useIsConnected } from "../api/connection";
import type { Finding, Job, Plan, Remedy } from "../api/types";
import { Act } from "../frame/Act";
import { useFocusCaught } from "../frame/focus";
import { isChord, useKeys } from "../frame/keys";
import { useSessionId } from "../frame/sessionContext";
import { useScrolledByKeys } from "../frame/useScrolledByKeys";
import { farWords, jobsInSight, left, percent } from "../jobs/progress";
import { useWork } from "../jobs/useWork";
import { count, number, placeText, size } from "../words";
import css from "./plans.module.css";
import type { Planned } from "./usePlanned";
import type { PlanRun, RunningJob } from "./usePlanRun";

interface Props {
  run: PlanRun;
  /** The plan that follows from the station's present choices. */
  planned: Planned<Plan>;
  /** What the station's choices could not do, beside making a plan. */
  trouble?: string | null;
  /** What the tray says while there is nothing to plan. */
  idle: ReactNode;
  applyWord: string;
  /** Drafts that are forgotten once the plan is applied. */
  drafts?: readonly string[];
  /** What can be done about a finding, in one step; null where that is done already, or makes no sense here. */
  remedyOf?: (remedy: Remedy, finding: Finding) => { label: string; onPress: () => void } | null;
  /** A way out of what stands against the plan. */
  offer?: ReactNode;
  /** Shown beside "Done". */
  after?: ReactNode;
}

/** At every station the same: what the present choices would do, apply, progress in place, then done and undo. */
export function PlanTray({ run, planned, trouble, idle, applyWord, drafts, remedyOf, offer, after }: Props) {
  const [open, setOpen] = useState(false);
  const words = useRef<HTMLDivElement>(null);
  const scrolled = useScrolledByKeys(words);
  const plan = run.undoPlan ?? planned.view;
  const isConnected = useIsConnected();
  const session = useSessionId();
  const { planning } = planned;
  // Told of only where it takes long, or has to wait.
  const thinking = useWork((j) => planning && j.work === "Planning" && j.sessionId === session);
  const work = thinking.running;
  // A plan for other choices than those in sight stays in sight, and is not applied.
  const isCurrent = run.undoPlan !== null || planned.isCurrent;
  const canApply =
    plan !== null && isCurrent && plan.refusals.length === 0 && !run.busy && run.job === null && isConnected;
  const apply = () => plan && canApply && run.apply(plan, run.undoPlan ? [] : drafts);
  // What is pressed before the plan is there must not be swallowed without a word; nor is a plan applied that nobody saw.
  const [isEarly, setEarly] = useState(false);
  if (isEarly && (canApply || !planning)) setEarly(false);
  useKeys((e) => {
    if (isChord(e) && e.key === "Enter") {
      e.preventDefault();
      if (planning && !canApply) setEarly(true);
      else apply();
    }
  });

  useFocusCaught(`${run.job?.id} ${run.job?.state} ${run.undoPlan?.id}`, `.${css.tray}`);

  if (run.job) return <JobTray run={run} job={run.job} after={after} />;
  const against = run.error ?? (run.undoPlan ? null : (planned.error ?? trouble ?? null));
  return (
    <section className={css.tray} aria-label="Plan">
      <div className={css.trayLine}>
        <div
          ref={words}
          className={`${css.trayWords} ${plan && !isCurrent ? css.ofBefore : ""}`}
          aria-live="polite"
          {...scrolled}
        >
          {against ? (
            <p className="trouble" role="alert">
              {against}
            </p>
          ) : work ? (
            <p className="quiet">
              Working out the plan. <span className="mono">{left(work)}</span>
              {work.current && ` · ${work.current}`}
            </p>
          ) : plan ? (
            <PlanWords plan={plan} remedyOf={run.undoPlan ? undefined : remedyOf} />
          ) : (
            <p className="quiet">{planning ? "Working out the plan." : idle}</p>
          )}
          {isEarly && (
            <p role="status">One moment: what you chose is still being worked out. Press again once it is.</p>
          )}
        </div>
        <div className={css.trayActions}>
          {(run.undoPlan || run.error) && <Button onClick={run.clear}>Cancel</Button>}
          {offer}
          {work && (
            <Act loading={thinking.isStopping} onClick={thinking.stop}>
              Stop
            </Act>
          )}
          {plan && plan.steps.length > 0 && (
            <Button type="text" onClick={() => setOpen(!open)} aria-expanded={open}>
              {open ? "Hide steps" : count(plan.stepCount, "step")}
            </Button>
          )}
          {plan && (
            <Button
              type="primary"
              disabled={!canApply}
              loading={run.busy}
              title={isConnected ? "Ctrl + Enter" : "Neat Crate does not answer"}
              onClick={apply}
            >
              {run.undoPlan ? (run.undoPlan.kind === "Undo" ? "Undo" : "Redo") : applyWord}
            </Button>
          )}
        </div>
      </div>
      {open && plan && <Steps plan={plan} />}
    </section>
  );
}

function PlanWords({ plan, remedyOf }: { plan: Plan; remedyOf: Props["remedyOf"] }) {
  return (
    <>
      <p className={css.planSentence}>{plan.sentence}</p>
      {plan.refusals.map((refusal) => (
        <p className="trouble" role="alert" key={refusal}>
          {refusal}
        </p>
      ))}
      {plan.warnings.map((warning) => (
        <p className="warning" key={warning}>
          {warning}
          {remedyOf && <Remedies finding={plan.findings.find((f) => f.sentence === warning)} remedyOf={remedyOf} />}
        </p>
      ))}
    </>
  );
}

function Remedies({ finding, remedyOf }: { finding: Finding | undefined; remedyOf: NonNullable<Props["remedyOf"]> }) {
  return finding?.remedies.map((remedy) => {
    const act = remedyOf(remedy, finding);
    return (
      act && (
        <Button key={remedy} size="small" className={css.remedy ?? ""} onClick={act.onPress}>
          {act.label}
        </Button>
      )
    );
  });
}

function JobTray({ run, job, after }: { run: PlanRun; job: RunningJob; after: ReactNode }) {
  useEffect(() => {
    jobsInSight.add(job.id);
    return () => void jobsInSight.delete(job.id);
  }, [job.id]);
  if (job.state === "Done") {
    return (
      <section className={`${css.tray} ${css.done}`} aria-label="Plan">
        <div className={css.trayLine}>
          {job.message ? (
            <p className="warning" role="status">
              <strong>Stopped in the middle.</strong> {job.message}
            </p>
          ) : (
            <p className={css.planSentence} role="status">
              <strong>Done.</strong> {job.sentence}
            </p>
          )}
          <div className={css.trayActions}>
            {after}
            {job.kind !== "Undo" && <Button onClick={() => run.planUndo(job.planId ?? undefined)}>Undo</Button>}
            <Button onClick={run.clear}>Close</Button>
          </div>
        </div>
      </section>
    );
  }
  if (job.state === "Failed" || job.state === "Cancelled") {
    return (
      <section className={css.tray} aria-label="Plan">
        <div className={css.trayLine}>
          <p className={job.state === "Failed" ? "trouble" : css.planSentence} role="alert">
            {job.message}
          </p>
          <div className={css.trayActions}>
            <Button onClick={run.clear}>Close</Button>
          </div>
        </div>
      </section>
    );
  }
  return <HowFar job={job} isStopping={run.isStopping} onCancel={run.cancel} />;
}

interface HowFarProps {
  job: RunningJob;
  isStopping: boolean;
  onCancel: () => void;
}

/** What runs, drawn with each message that tells how far it is: nothing else is. */
function HowFar({ job: { id, sentence }, isStopping, onCancel }: HowFarProps) {
  const { running: job, isKnown } = useWork((j) => j.id === id);
  if (!job) return null;
  return (
    <section className={css.tray} aria-label="Plan">
      <div className={css.trayLine}>
        <div className={css.trayWords}>
          <p className={css.planSentence}>{sentence}</p>
          <Progress percent={percent(job)} size="small" />
          <span className="unseen" role="status">
            {job.state === "Running" ? `${announced(job)} % done` : left(job)}
          </span>
          <p className="mono quiet">
            {isKnown
              ? `${isStopping ? "Taking back what was done · " : ""}${farWords(job, "step")}`
              : "How far it is now is not known until Neat Crate answers again."}
          </p>
        </div>
        <div className={css.trayActions}>
          <Act onClick={onCancel} loading={isStopping}>
            {isStopping ? "Stopping" : "Cancel"}
          </Act>
        </div>
      </div>
    </section>
  );
}

/** Progress is announced by quarters: more would talk over whoever listens. */
const announced = (job: Job) => 25 * Math.floor(percent(job) / 25);

/** What scrolls must be reached by the keyboard (WCAG 2.1.1). */
const scrolledByKeys = { tabIndex: 0 };

function Steps({ plan }: { plan: Plan }) {
  return (
    <section className={css.steps} aria-label="Steps of the plan" {...scrolledByKeys}>
      <table>
        <thead>
          <tr>
            <th>Step</th>
            <th>From</th>
            <th>To</th>
            <th className={css.cNum}>Size</th>
            <th>Why</th>
          </tr>
        </thead>
        <tbody>
          {plan.steps.map((step) => (
            <tr key={step.verb + step.to.path}>
              <td>{step.verb}</td>
              <td className="path">{step.from ? placeText(step.from) : ""}</td>
              <td className="path">{placeText(step.to)}</td>
              <td className={css.cNum}>{step.bytes > 0 ? size(step.bytes) : ""}</td>
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
          <ul className={css.contents}>
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
