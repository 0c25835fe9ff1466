import type { Standing, Use } from "../api/types";
import { standingWord, useWord } from "../words";

/** The files of a session that stand alike and are used alike: a part of the weighbridge. */
export interface Segment {
  standing: Standing;
  use: Use;
}

/** What is inside is told apart by use; what is elsewhere by where it stands. */
export const nameOf = ({ standing, use }: Segment) =>
  standing === "Inside"
    ? useWord[use]
    : use === "Placed" || use === "Named"
      ? standingWord[standing]
      : `${standingWord[standing]}, ${useWord[use]}`;

export const isSame = (a: Segment, b: Segment) => a.standing === b.standing && a.use === b.use;

export const isIn = (all: readonly Segment[], segment: Segment) => all.some((s) => isSame(s, segment));

/** The chosen segments with one more of them, or without it where it was chosen. */
export const toggled = (all: readonly Segment[], { standing, use }: Segment): readonly Segment[] =>
  isIn(all, { standing, use }) ? all.filter((s) => !isSame(s, { standing, use })) : [...all, { standing, use }];
