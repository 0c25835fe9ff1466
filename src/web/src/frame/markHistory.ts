/** Something that somebody marked or chose, and how that is taken back and made again. */
interface Mark {
  /** What it belongs to: only marks of what is in sight are taken back. */
  scope: string;
  undo: () => void;
  redo: () => void;
}

/** So many can be taken back, one after the other. */
const mostKept = 200;

interface History {
  done: Mark[];
  undone: Mark[];
}

const histories = new Map<string, History>();
const inSight = new Map<string, number>();

const name = (sessionId: string, scope: string) => `${sessionId} ${scope}`;

function historyOf(sessionId: string): History {
  const known = histories.get(sessionId);
  if (known) return known;
  const history: History = { done: [], undone: [] };
  histories.set(sessionId, history);
  return history;
}

/** Says that marks of a scope are in sight from now on; gives what ends that. */
export function showMarks(sessionId: string, scope: string): () => void {
  const key = name(sessionId, scope);
  inSight.set(key, (inSight.get(key) ?? 0) + 1);
  return () => {
    const left = (inSight.get(key) ?? 1) - 1;
    if (left > 0) inSight.set(key, left);
    else inSight.delete(key);
  };
}

/** Keeps a mark that was just made: what had been taken back before it cannot be made again. */
export function rememberMark(sessionId: string, mark: Mark) {
  const history = historyOf(sessionId);
  history.undone = history.undone.filter((m) => m.scope !== mark.scope);
  history.done = [...history.done, mark].slice(-mostKept);
}

/** Forgets the marks of a scope: what they asked for is done, or they cannot be taken back any more. */
export function forgetMarks(sessionId: string, scope: string) {
  const history = historyOf(sessionId);
  history.done = history.done.filter((m) => m.scope !== scope);
  history.undone = history.undone.filter((m) => m.scope !== scope);
}

const lastInSight = (sessionId: string, marks: readonly Mark[]) =>
  marks.findLastIndex((m) => inSight.has(name(sessionId, m.scope)));

/** Takes the last mark back that is in sight; false where there is none. */
export function takeBackMark(sessionId: string): boolean {
  const history = historyOf(sessionId);
  const at = lastInSight(sessionId, history.done);
  const mark = history.done[at];
  if (!mark) return false;
  history.done = history.done.toSpliced(at, 1);
  history.undone = [...history.undone, mark];
  mark.undo();
  return true;
}

/** Makes the mark again that was taken back last; false where there is none. */
export function markAgain(sessionId: string): boolean {
  const history = historyOf(sessionId);
  const at = lastInSight(sessionId, history.undone);
  const mark = history.undone[at];
  if (!mark) return false;
  history.undone = history.undone.toSpliced(at, 1);
  history.done = [...history.done, mark];
  mark.redo();
  return true;
}
