import { Progress } from "antd";
import type { ReactNode } from "react";
import { Act } from "../frame/Act";
import { farWords, percent } from "./progress";
import type { Work } from "./useWork";
import css from "./work-goes.module.css";

interface Props {
  work: Work;
  /** What is counted. */
  of: string;
  /** Cancel takes back what was done, Stop keeps it. */
  word?: "Cancel" | "Stop";
  /** Shown beside the button. */
  beside?: ReactNode;
}

/** Work that runs, where it was asked for and in the list of jobs: how far it is, the time left, and the way to stop it. */
export function WorkGoes({ work, of, word = "Cancel", beside }: Props) {
  const { running: job, isStopping, isKnown, stop, trouble } = work;
  if (!job) return null;
  return (
    <div className={css.workGoes} role="status" aria-live="off">
      <p>{job.sentence}</p>
      <Progress percent={percent(job)} size="small" />
      <p className="mono quiet">
        {isKnown ? farWords(job, of) : "How far it is now is not known until Neat Crate answers again."}
      </p>
      {beside}
      <Act size="small" loading={isStopping} onClick={stop}>
        {isStopping ? "Stopping" : word}
      </Act>
      {trouble && (
        <p className="trouble" role="alert">
          {trouble}
        </p>
      )}
    </div>
  );
}
