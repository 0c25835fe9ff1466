import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useEffect, useEffectEvent, useState } from "react";
import { answer, api } from "../api/client";
import { hearJob, isOver, keys, useCancelJob, useHistory, useJobs } from "../api/queries";
import type { Job, Plan } from "../api/types";

/** What the tray at the bottom of a session is doing. */
export interface PlanRun {
  /** The plan to show in place of the station's own: an undo. */
  undoPlan: Plan | null;
  job: Job | null;
  error: string | null;
  busy: boolean;
  apply: (plan: Plan) => void;
  cancel: () => void;
  planUndo: (planId?: string) => void;
  clear: () => void;
  /** Puts away what is done or failed, so that new choices are planned; work that still runs stays in sight. */
  moveOn: () => void;
}

/** Applies plans, follows their jobs, and plans undos. */
export function usePlanRun(sessionId: string | null): PlanRun {
  const client = useQueryClient();
  const { data: jobs = [] } = useJobs();
  const history = useHistory(sessionId ?? "");
  const [jobId, setJobId] = useState<string | null>(null);
  const [undoPlan, setUndoPlan] = useState<Plan | null>(null);

  const applying = useMutation({
    mutationFn: (plan: Plan) => answer(api.POST("/api/plans/{id}/apply", { params: { path: { id: plan.id } } })),
    onSuccess: (job) => {
      hearJob(job);
      setJobId(job.id);
      setUndoPlan(null);
      void follow(job.id);
    },
  });
  const cancelling = useCancelJob();
  const undoing = useMutation({
    mutationFn: (id: string) => answer(api.POST("/api/plans/{id}/undo", { params: { path: { id } } })),
    onSuccess: (plan) => {
      setUndoPlan(plan);
      setJobId(null);
    },
  });

  /** The hub tells of progress; should it be silent, the end must still be seen. */
  async function follow(id: string): Promise<void> {
    for (;;) {
      await new Promise((resolve) => setTimeout(resolve, 700));
      const known = client.getQueryData<Job[]>(keys.jobs)?.find((j) => j.id === id);
      if (!known || isOver(known)) return;
      try {
        hearJob(await answer(api.GET("/api/jobs/{id}", { params: { path: { id } } })));
      } catch {
        // The server does not answer just now; the next round asks again.
      }
    }
  }

  const clear = () => {
    setJobId(null);
    setUndoPlan(null);
    applying.reset();
    undoing.reset();
  };
  // Whoever comes back to a session, in this tab or another, finds the work that goes on in it.
  const running = jobs.find(
    (j) => j.work === "Apply" && sessionId !== null && j.sessionId === sessionId && !isOver(j),
  )?.id;
  const foundAgain = useEffectEvent((id: string) => {
    setJobId(id);
    void follow(id);
  });
  useEffect(() => {
    if (running && running !== jobId) foundAgain(running);
  }, [running, jobId]);
  const job = jobs.find((j) => j.id === jobId) ?? null;
  const error = applying.error ?? cancelling.error ?? undoing.error;
  const lastUndoable = history.data?.find((h) => h.canUndo)?.planId;
  return {
    undoPlan,
    job,
    error: error?.message ?? null,
    busy: applying.isPending || undoing.isPending || (job !== null && !isOver(job)),
    apply: (plan) => applying.mutate(plan),
    cancel: () => job && cancelling.mutate(job.id),
    planUndo: (planId) => {
      const id = planId ?? lastUndoable;
      if (id) undoing.mutate(id);
    },
    clear,
    moveOn: () => {
      if (job === null ? !running : isOver(job)) clear();
    },
  };
}
