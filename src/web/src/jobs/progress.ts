import type { Job } from "../api/types";
import { duration, size } from "../words";

/** Jobs that a tray shows at this moment: of them nothing else need be told. */
export const jobsInSight = new Set<string>();

/** How far a job is; where nobody knows how much there is to read, it is just begun. */
export const percent = ({ bytes, bytesDone, files, filesDone }: Job) =>
  bytes > 0 ? Math.floor((100 * bytesDone) / bytes) : files > 0 ? Math.floor((100 * filesDone) / files) : 0;

/** Rate and time left in words. */
export function left(job: Job): string {
  if (job.state === "Queued") return job.message ?? "waits for other work";
  if (job.state === "Held") return job.message ?? "waits while something records";
  const rate = job.bytesDone > 0 ? `${size(job.bytesPerSecond)}/s` : null;
  const rest = job.secondsLeft === null ? null : `${duration(job.secondsLeft)} left`;
  return [rate, rest ?? (rate && `${size(job.bytesDone)} read`)].filter(Boolean).join(" · ") || "starting";
}
