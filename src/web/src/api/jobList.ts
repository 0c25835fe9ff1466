import type { Job } from "./types";

export const isOver = (job: Pick<Job, "state">) =>
  job.state === "Done" || job.state === "Failed" || job.state === "Cancelled";

/**
 * The jobs with news about one of them. News may overtake each other: the answer to whoever started a job can come after the
 * word that it waits, or is over, and then it is older.
 */
export const withJob = (jobs: readonly Job[], job: Job): Job[] =>
  jobs.some((j) => j.id === job.id)
    ? jobs.map((j) => (j.id === job.id && j.revision <= job.revision ? job : j))
    : [job, ...jobs];
