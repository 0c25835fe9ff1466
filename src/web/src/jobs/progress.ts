import type { Job } from "../api/types";
import { count, duration, number, size } from "../words";

/** Jobs that a tray shows at this moment: of them nothing else need be told. */
export const jobsInSight = new Set<string>();

/** Whether somebody asked for it and waits for what comes of it; the rest is done by the way. */
export const isAsked = ({ work, isByItself }: Job) =>
  work === "Apply" || work === "Adopt" || (work === "Backup" && !isByItself);

/** How far a job is; where nobody knows how much there is to read, as far as it can say itself. */
export const percent = ({ bytes, bytesDone, files, filesDone, share }: Job) =>
  Math.floor(100 * (bytes > 0 ? bytesDone / bytes : files > 0 ? filesDone / files : (share ?? 0)));

/** Rate and time left in words. */
export function left(job: Job): string {
  if (job.state === "Queued") return job.message ?? "waits for other work";
  if (job.state === "Held") return job.message ?? "waits while something records";
  const rate = job.bytesDone > 0 ? `${size(job.bytesPerSecond)}/s` : null;
  const rest = job.secondsLeft === null ? null : `${duration(job.secondsLeft)} left`;
  return [rate, rest ?? (rate && `${size(job.bytesDone)} read`)].filter(Boolean).join(" · ") || "starting";
}

/** How far a job is in figures, with the time left and what is at hand. Where nobody knows how much there is, what was dealt with is counted. */
export function farWords(job: Job, noun: string): string {
  const done =
    job.files > 0
      ? `${number(job.filesDone)} of ${count(job.files, noun)}`
      : job.filesDone > 0 && `${count(job.filesDone, noun)} looked at`;
  return [done, left(job), job.current].filter(Boolean).join(" · ");
}
