import type { SessionLabel } from "../api/types";
import { count, number, onlyHere, size } from "../words";

export type Order = "needs" | "saved" | "name" | "size" | "folder";

export const orderWord: Readonly<Record<Order, string>> = {
  needs: "what needs you first",
  saved: "last saved first",
  name: "by name",
  size: "largest first",
  folder: "by folder",
};

export type State = "needs" | "silent" | "outside" | "onlyHere" | "heavy" | "inOrder";

export const stateWord: Readonly<Record<State, string>> = {
  needs: "need you",
  silent: "silent",
  outside: "outside",
  onlyHere: "only here",
  heavy: "heavy",
  inOrder: "in order",
};

/** Whether a session is in a state; it may be in more than one. */
const isIn: Readonly<Record<State, (s: SessionLabel) => boolean>> = {
  needs: (s) => s.attention !== "InOrder" && s.attention !== "Heavy",
  silent: (s) => s.attention === "Silent" || s.attention === "Unreadable",
  outside: (s) => s.says.some((p) => p.about === "Outside"),
  onlyHere: (s) => s.backup !== null && onlyHere(s.backup) !== null,
  heavy: (s) => s.says.some((p) => p.about === "Idle"),
  inOrder: (s) => s.attention === "InOrder",
};

/** How many sessions are in each state, of those in which any is. */
export const statesOf = (sessions: readonly SessionLabel[]): readonly { state: State; sessions: number }[] =>
  (Object.keys(isIn) as State[])
    .map((state) => ({ state, sessions: sessions.filter(isIn[state]).length }))
    .filter((s) => s.sessions > 0);

const byName = (a: SessionLabel, b: SessionLabel) => a.name.localeCompare(b.name, "en", { numeric: true });

/** The server sends those that need somebody first. */
const before: Readonly<Record<Exclude<Order, "needs">, (a: SessionLabel, b: SessionLabel) => number>> = {
  saved: (a, b) => (b.documentChanged ?? "").localeCompare(a.documentChanged ?? "") || byName(a, b),
  name: byName,
  size: (a, b) => b.bytes - a.bytes || byName(a, b),
  folder: (a, b) => above(a).localeCompare(above(b), "en", { numeric: true }) || byName(a, b),
};

/** The folder in which a session's folder stands: mostly one for each artist, or each record. */
const above = ({ folder }: SessionLabel) => folder.slice(0, Math.max(0, folder.lastIndexOf("/")));

/** Sessions that stand beside each other, under the path of their folder; one group without a path where that is not asked for. */
export function grouped(sessions: readonly SessionLabel[], order: Order) {
  if (order !== "folder") return [{ path: null, sessions }];
  const groups = new Map<string, SessionLabel[]>();
  for (const session of sessions) {
    const group = groups.get(above(session));
    if (group) group.push(session);
    else groups.set(above(session), [session]);
  }
  return [...groups].map(([path, of]) => ({ path, sessions: of }));
}

/** So many crates stand in one block, which is drawn while it is near what is in sight. */
export const blockOf = 12;

/** Sessions in the blocks in which they are drawn. */
export const inBlocks = (sessions: readonly SessionLabel[]) =>
  Array.from({ length: Math.ceil(sessions.length / blockOf) }, (_, n) =>
    sessions.slice(n * blockOf, (n + 1) * blockOf),
  );

/** What sessions are narrowed to besides their state; null for any. */
export interface Within {
  shelf: string | null;
  /** Path of the folder in which their own folders stand. */
  folder: string | null;
  /** The ending of the document's name: every program has its own. */
  document: string | null;
}

export const anywhere: Within = { shelf: null, folder: null, document: null };

const shelfOf = ({ shelfName }: SessionLabel) => shelfName ?? "no shelf";

const documentOf = ({ document }: SessionLabel) => {
  const dot = document?.lastIndexOf(".") ?? -1;
  return document && dot > 0 ? document.slice(dot).toLowerCase() : "no document";
};

const countedBy = (sessions: readonly SessionLabel[], of: (s: SessionLabel) => string) => {
  const counts = new Map<string, number>();
  for (const session of sessions) counts.set(of(session), (counts.get(of(session)) ?? 0) + 1);
  return [...counts]
    .map(([value, sessions]) => ({ value, sessions }))
    .sort((a, b) => b.sessions - a.sessions || a.value.localeCompare(b.value, "en"));
};

/** The shelves on which sessions stand, the folders around theirs, and the kinds of their documents, with how many there are of each, the most first. */
export const withinOf = (sessions: readonly SessionLabel[]) => ({
  shelves: countedBy(sessions, shelfOf),
  folders: countedBy(sessions, above),
  documents: countedBy(sessions, documentOf),
});

/** A part of the line that sums all sessions up, and the sessions that it is about: in a state, or all of them. */
export interface SumPart {
  text: string;
  of: State | "all";
}

/** All of them in one line; none where none is known. */
export function sumOf(sessions: readonly SessionLabel[]): readonly SumPart[] {
  if (sessions.length === 0) return [];
  const needy = sessions.filter(isIn.needs).length;
  const only = sessions.reduce((sum, { backup }) => sum + (backup?.safety?.onlyHere.files ?? 0), 0);
  const all: SumPart = {
    text: `${count(sessions.length, "session")}, ${size(sessions.reduce((sum, s) => sum + s.bytes, 0))}`,
    of: "all",
  };
  return [
    all,
    ...(needy > 0 ? [{ text: `${number(needy)} ${needy === 1 ? "needs" : "need"} you`, of: "needs" } as const] : []),
    ...(only > 0 ? [{ text: `${count(only, "file")} only here`, of: "onlyHere" } as const] : []),
  ];
}

/** The sessions that are asked for, in their order: by words of their names and folders, by a state, a shelf and a kind of document. */
export function arranged(
  sessions: readonly SessionLabel[],
  text: string,
  state: State | null,
  order: Order,
  within: Within = anywhere,
) {
  const words = text.trim().toLowerCase().split(/\s+/).filter(Boolean);
  const shown = sessions.filter(
    (s) =>
      (state === null || isIn[state](s)) &&
      (within.shelf === null || shelfOf(s) === within.shelf) &&
      (within.folder === null || above(s) === within.folder) &&
      (within.document === null || documentOf(s) === within.document) &&
      words.every((w) => `${s.name} ${s.folder}`.toLowerCase().includes(w)),
  );
  return order === "needs" ? shown : shown.toSorted(before[order]);
}
