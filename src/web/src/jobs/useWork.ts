import { useIsConnected } from "../api/connection";
import { isOver, useCancelJob, useOfJobs } from "../api/queries";
import type { Job } from "../api/types";

/** Work of one kind, wherever it was asked for. */
export interface Work {
  /** What of it runs or waits at this moment. */
  running: Job | null;
  /** What came of the last of it that is over, also of one that a restart cut off. */
  last: Job | null;
  /** Whether what runs was asked to stop. */
  isStopping: boolean;
  /** Whether how far it is can be known: somebody is there to tell. */
  isKnown: boolean;
  stop: () => void;
  /** Why it could not be stopped. */
  trouble: string | null;
}

/** Follows work of any kind: what of it runs, how it is stopped, and what came of it. */
export function useWork(isIt: (job: Job) => boolean): Work {
  // The newest first; where nothing changed for this work, nothing is drawn anew.
  const running = useOfJobs((jobs) => jobs.find((j) => isIt(j) && !isOver(j)) ?? null) ?? null;
  const last = useOfJobs((jobs) => jobs.find((j) => isIt(j) && isOver(j)) ?? null) ?? null;
  const isKnown = useIsConnected();
  const cancel = useCancelJob();
  return {
    running,
    last,
    isStopping: running !== null && cancel.variables === running.id && (cancel.isPending || cancel.isSuccess),
    isKnown,
    stop: () => running && cancel.mutate(running.id),
    trouble: cancel.error?.message ?? null,
  };
}
