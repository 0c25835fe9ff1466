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

/** Moves the last mark that is in sight to the other side. */
function turn(sessionId: string, from: "done" | "undone"): boolean {
  const history = historyOf(sessionId);
  const at = history[from].findLastIndex((m) => inSight.has(name(sessionId, m.scope)));
  const mark = history[from][at];
  if (!mark) return false;
  const to = from === "done" ? "undone" : "done";
  history[from] = history[from].toSpliced(at, 1);
  history[to] = [...history[to], mark];
  if (from === "done") mark.undo();
  else mark.redo();
  return true;
}

/** Takes the last mark back that is in sight; false where there is none. */
export const takeBackMark = (sessionId: string) => turn(sessionId, "done");

/** Makes the mark again that was taken back last; false where there is none. */
export const markAgain = (sessionId: string) => turn(sessionId, "undone");
