import { useEffect, useEffectEvent } from "react";
import { create } from "zustand";
import { answer, api } from "../api/client";
import { hearJob, isOver, keys, queryClient, useCancelJob, useHistory, useOfJobs } from "../api/queries";
import type { Job, Plan } from "../api/types";
import { forgetDrafts } from "../frame/kept";
import { forgetMarks } from "../frame/markHistory";

/** What is known of a job beside how far it is. */
export type RunningJob = Pick<Job, "id" | "state" | "kind" | "planId" | "sessionId" | "message" | "sentence">;

const withoutProgress = ({ id, state, kind, planId, sessionId, message, sentence }: Job): RunningJob => ({
  id,
  state,
  kind,
  planId,
  sessionId,
  message,
  sentence,
});

/** What the tray at the bottom of a session is doing. */
export interface PlanRun {
  /** The plan to show in place of the station's own: an undo or a redo. */
  undoPlan: Plan | null;
  job: RunningJob | null;
  error: string | null;
  busy: boolean;
  /** Whether the job was asked to stop, and takes back what it did. */
  isStopping: boolean;
  /** Applies a plan; once it is applied, the drafts that it was made from are forgotten. */
  apply: (plan: Plan, drafts?: readonly string[]) => void;
  cancel: () => void;
  /** Plans to undo a plan; without one, the last that can be undone. */
  planUndo: (planId?: string) => void;
  /** Plans to redo what was undone last; does nothing where there is none. */
  planRedo: () => void;
  clear: () => void;
  /** Puts away what is done or failed, so that new choices are planned; work that still runs stays in sight. */
  moveOn: () => void;
}

interface Run {
  jobId: string | null;
  undoPlan: Plan | null;
  error: string | null;
  pending: boolean;
}

const nothing: Run = { jobId: null, undoPlan: null, error: null, pending: false };

/** What runs belongs to its session, and is found there however often one leaves it; what makes a new one is under the name of its page. */
const useRuns = create<Readonly<Record<string, Run>>>(() => ({}));

const change = (key: string, part: Partial<Run>) =>
  useRuns.setState((runs) => ({ [key]: { ...(runs[key] ?? nothing), ...part } }));

/** Pages that make a new session go by a name, sessions by an identity. */
const isSession = (key: string) => key.includes("-");

const wordsOf = (error: unknown) => (error instanceof Error ? error.message : String(error));

/** The hub tells of progress; should it be silent, the end must still be seen. */
async function follow(id: string): Promise<Job | null> {
  for (let round = 1; ; round++) {
    await new Promise((resolve) => setTimeout(resolve, 200));
    const known = queryClient.getQueryData<Job[]>(keys.jobs)?.find((j) => j.id === id);
    if (known && isOver(known)) return known;
    if (round % 4 !== 0) continue;
    try {
      hearJob(await answer(api.GET("/api/jobs/{id}", { params: { path: { id } } })));
    } catch (error) {
      // While the server does not answer the next round asks again; one that knows the job no more has ended meanwhile.
      if (error instanceof Error && "status" in error && error.status === 404) return null;
    }
  }
}

async function apply(key: string, plan: Plan, drafts: readonly string[]) {
  change(key, { pending: true, error: null });
  try {
    const job = await answer(api.POST("/api/plans/{id}/apply", { params: { path: { id: plan.id } } }));
    // From here on the last thing that was done is the plan, and no longer the mark before it.
    for (const name of drafts) forgetMarks(key, name);
    hearJob(job);
    change(key, { jobId: job.id, undoPlan: null, pending: false });
    const end = await follow(job.id);
    if (end?.state === "Done") forgetDrafts(key, drafts);
  } catch (error) {
    change(key, { pending: false, error: wordsOf(error) });
  }
}

/** Plans to undo a plan, and shows that in its session. */
export const planUndo = (key: string, planId: string) =>
  planBack(key, () => answer(api.POST("/api/plans/{id}/undo", { params: { path: { id: planId } } })));

const planRedo = (key: string, undoId: string) =>
  planBack(key, () => answer(api.POST("/api/plans/{id}/redo", { params: { path: { id: undoId } } })));

async function planBack(key: string, make: () => Promise<Plan>) {
  change(key, { pending: true, error: null });
  try {
    change(key, { undoPlan: await make(), jobId: null, pending: false });
  } catch (error) {
    change(key, { pending: false, error: wordsOf(error) });
  }
}

/** Puts away what is done or failed; work that still runs stays in sight. */
export function moveOn(key: string) {
  const run = useRuns.getState()[key];
  if (!run || run === nothing || run.pending) return;
  const job = queryClient.getQueryData<Job[]>(keys.jobs)?.find((j) => j.id === run.jobId);
  if (!job || isOver(job)) change(key, nothing);
}

/**
 * Applies plans, follows their jobs, and plans undos.
 * @param key The session, or the page that makes a new one.
 */
export function usePlanRun(key: string): PlanRun {
  const history = useHistory(isSession(key) ? key : "");
  const run = useRuns((runs) => runs[key] ?? nothing);
  const cancelling = useCancelJob();
  // Whoever comes back to a session, in this tab or another, finds the work that goes on in it.
  const running = useOfJobs(
    (jobs) => jobs.find((j) => j.work === "Apply" && j.sessionId === key && !isOver(j))?.id ?? null,
  );
  const foundAgain = useEffectEvent((id: string) => {
    change(key, { jobId: id });
    void follow(id);
  });
  useEffect(() => {
    if (running && running !== run.jobId) foundAgain(running);
  }, [running, run.jobId]);
  const job =
    useOfJobs((jobs) => {
      const found = jobs.find((j) => j.id === run.jobId);
      return found ? withoutProgress(found) : null;
    }) ?? null;
  const redoable = history.data?.find((h) => h.canRedo)?.planId;
  const lastUndoable = history.data?.find((h) => h.canUndo)?.planId;
  const clear = () => {
    change(key, nothing);
    cancelling.reset();
  };
  return {
    undoPlan: run.undoPlan,
    job,
    error: run.error ?? cancelling.error?.message ?? null,
    busy: run.pending || (job !== null && !isOver(job)),
    apply: (plan, drafts = []) => void apply(key, plan, drafts),
    isStopping: job !== null && cancelling.variables === job.id && (cancelling.isPending || cancelling.isSuccess),
    cancel: () => job && cancelling.mutate(job.id),
    planUndo: (planId) => {
      const id = planId ?? lastUndoable;
      if (id) void planUndo(key, id);
    },
    planRedo: () => {
      if (redoable) void planRedo(key, redoable);
    },
    clear,
    moveOn: () => moveOn(key),
  };
}
