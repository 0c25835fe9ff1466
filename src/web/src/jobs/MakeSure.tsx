import type { UseMutationResult } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import type { Job } from "../api/types";
import { Act } from "../frame/Act";
import { useSessionId } from "../frame/sessionContext";
import { size } from "../words";
import css from "./make-sure.module.css";
import { left } from "./progress";
import { useWork } from "./useWork";

/** Up to so many bytes are read unasked to make sure. */
const readUnasked = 500_000_000;

interface Props {
  /** How many files have to be read, and what they weigh. */
  files: number;
  bytes: number;
  /** What is said while they are read. */
  reading: string;
  /** What is said while somebody has to ask for it. */
  offer: string;
  read: UseMutationResult<Job, Error, void>;
}

/** Reads files that may be the same, so that it is known: unasked where that is soon done. */
export function MakeSure({ files, bytes, reading, offer, read }: Props) {
  const id = useSessionId();
  const [asked, setAsked] = useState<string | null>(null);
  const work = useWork((j) => j.work === "Check" && j.sessionId === id);
  const isSoonDone = files > 0 && bytes <= readUnasked;
  const what = `${files} ${bytes}`;
  const { mutate } = read;
  useEffect(() => {
    // Asked once for what there is to read: what could not be read is not asked for again and again.
    if (!isSoonDone || asked === what) return;
    setAsked(what);
    mutate();
  }, [isSoonDone, asked, what, mutate]);
  // One line, whatever it says: the list below keeps its rows.
  if (work.running)
    return <p className="quiet" role="status">{`${reading}: ${left(work.running)} · ${work.running.current}`}</p>;
  if (files === 0 || isSoonDone) return null;
  return (
    <p className={css.makeSure}>
      <span className="quiet">{offer}</span>
      <Act size="small" loading={read.isPending} onClick={() => mutate()}>
        {`Make sure: read ${size(bytes)}`}
      </Act>
    </p>
  );
}
