import type { LoggedTake, TakeChange, TakeLogRow } from "../api/types";
import { position } from "../words";

/** What is to change in the take log, by recording. */
export type TakeChanges = Readonly<Record<string, TakeChange>>;

const nothing = { isKeeper: null, note: null, place: null, takeOff: false } as const;

/** The take as it would be: what is to change, and for the rest what is so now. */
export interface WishedTake {
  isKeeper: boolean;
  note: string;
  /** Where it is placed, in words; nothing where it is not. */
  placed: string;
  /** Whether anything of it is to change. */
  isChanged: boolean;
}

/** Where a take is placed, in words: its own track need not be named. */
const placedWords = ({ file, placed }: LoggedTake) =>
  placed
    .map(({ track, seconds }) =>
      [track !== file.take?.track && track, seconds === null ? "placed" : `at ${position(seconds)}`]
        .filter(Boolean)
        .join(" "),
    )
    .join(", ");

export function wished(take: LoggedTake, changes: TakeChanges): WishedTake {
  const change = changes[take.file.id];
  const place = change?.place;
  const to = place
    ? [place.track, place.seconds === null ? "at its time" : `at ${position(place.seconds)}`].filter(Boolean).join(" ")
    : null;
  return {
    isKeeper: change?.isKeeper ?? take.file.take?.isKeeper ?? false,
    note: change?.note ?? take.file.take?.note ?? "",
    placed: change?.takeOff ? "" : (to ?? placedWords(take)),
    isChanged: change !== undefined,
  };
}

/** The changes with others for one take; what says what is so already is none. */
export function changed(changes: TakeChanges, take: LoggedTake, part: Partial<TakeChange>): TakeChanges {
  const { id, take: known } = take.file;
  const next = { ...(changes[id] ?? { fileId: id, ...nothing }), ...part };
  if (next.isKeeper === (known?.isKeeper ?? false)) next.isKeeper = null;
  if (next.note !== null && next.note.trim() === (known?.note ?? "")) next.note = null;
  if (next.takeOff && take.placed.length === 0) next.takeOff = false;
  const { [id]: _, ...others } = changes;
  const isNone = next.isKeeper === null && next.note === null && next.place === null && !next.takeOff;
  return isNone ? others : { ...others, [id]: next };
}

/** The same for several takes. */
export const changedAll = (
  changes: TakeChanges,
  takes: readonly LoggedTake[],
  part: Partial<TakeChange>,
): TakeChanges => takes.reduce((all, take) => changed(all, take, part), changes);

/** The takes of a line on one track; those that fit none have no name. */
export const inCell = (row: TakeLogRow, track: string | null): readonly LoggedTake[] =>
  row.takes.filter(({ file }) =>
    track === null ? file.take?.track == null : file.take?.track?.toLowerCase() === track.toLowerCase(),
  );

/** Where a take stands in the log: line, column, and which of its cell. */
interface Cell {
  row: number;
  column: number;
  at: number;
}

const find = (rows: readonly (TakeLogRow | undefined)[], columns: readonly (string | null)[], id: string | null) => {
  for (const [row, line] of rows.entries()) {
    if (!line) continue;
    for (const [column, track] of columns.entries()) {
      const at = inCell(line, track).findIndex((t) => t.file.id === id);
      if (at >= 0) return { row, column, at } satisfies Cell;
    }
  }
  return null;
};

/**
 * The take that an arrow leads to: along the pass to the next track that has one, or along the track to the next pass. Takes
 * that share a cell come one after the other on the way down and up.
 */
export function neighbour(
  rows: readonly (TakeLogRow | undefined)[],
  columns: readonly (string | null)[],
  id: string | null,
  key: "ArrowLeft" | "ArrowRight" | "ArrowUp" | "ArrowDown",
): LoggedTake | null {
  const here = find(rows, columns, id);
  if (!here) return rows.flatMap((r) => (r ? columns.flatMap((c) => inCell(r, c)) : []))[0] ?? null;
  const by = key === "ArrowLeft" || key === "ArrowUp" ? -1 : 1;
  const isAlongPass = key === "ArrowLeft" || key === "ArrowRight";
  if (!isAlongPass) {
    const mate = inCell(rows[here.row] as TakeLogRow, columns[here.column] ?? null)[here.at + by];
    if (mate) return mate;
  }
  for (let n = 1; ; n++) {
    const [row, column] = isAlongPass ? [here.row, here.column + n * by] : [here.row + n * by, here.column];
    if (row < 0 || column < 0 || row >= rows.length || column >= columns.length) return null;
    const line = rows[row];
    const takes = line ? inCell(line, columns[column] ?? null) : [];
    const next = takes[key === "ArrowUp" ? takes.length - 1 : 0];
    if (next) return next;
  }
}
