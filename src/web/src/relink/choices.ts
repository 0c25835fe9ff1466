import type { LostEntry, RelinkWay } from "../api/types";

/** What was chosen by hand: for a missing file what is taken for it, or null where what is certain is left out. */
export type Taken = Readonly<Record<string, string | null>>;

export type Ways = Readonly<Record<string, RelinkWay>>;

/** Whether a missing file asks for something. */
export const asks = (lost: LostEntry) => lost.standing === "Missing" && lost.mark === "None";

/** Whether what was found can be taken from the row, or with others at once; what is known to be another sound is taken by itself, where it is heard. */
export const takeable = (lost: LostEntry) =>
  asks(lost) && lost.best?.isThere === true && lost.whereabouts !== "AnotherVersion";

/** Whether many may be taken at once without a look at each: what is certain. */
export const isCertain = (lost: LostEntry) => takeable(lost) && lost.best?.certainty !== "None";

/** What is taken for a missing file: what somebody chose, else what is certain and can be had. */
export function takenFor(lost: LostEntry, taken: Taken): string | null {
  if (!asks(lost)) return null;
  const byHand = taken[lost.id];
  if (byHand !== undefined) return byHand;
  return lost.best && lost.best.certainty !== "None" && lost.best.isThere ? lost.best.id : null;
}

/**
 * How a file comes back: as chosen for it, else as for all; what is kept in a backup is put back, since no document can point at
 * it there. Where it cannot be put back, it is copied in.
 */
export function wayOf(lost: LostEntry, ways: Ways, standard: RelinkWay): RelinkWay {
  const way = ways[lost.id] ?? (lost.best?.keptIn ? "PutBack" : standard);
  return way === "PutBack" && !lost.canPutBack ? "CopyIn" : way;
}
