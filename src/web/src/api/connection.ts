import { create } from "zustand";

const askedEveryMs = 1000;

/** A server that is merely busy answers within so long; one that does not counts as gone. */
const busyAtMostMs = 6000;

/** One that has nothing else to do answers within so long. */
const atOnceMs = 500;

interface Connection {
  /** Since when the server is gone, in milliseconds since 1970; null while it answers. */
  lostSince: number | null;
  /** True while it is there, and takes long to answer. */
  isSlow: boolean;
}

const useConnection = create<Connection>(() => ({ lostSince: null, isSlow: false }));

/** True while the server answers: without it nothing can be applied or recorded. */
export const useIsConnected = () => useConnection((c) => c.lostSince === null);

/** Since when it does not; null while it does. */
export const useLostSince = () => useConnection((c) => c.lostSince);

/** True while it is there and takes long to answer: then what is asked for is done, a while later. */
export const useIsSlow = () => useConnection((c) => c.isSlow);

/** How the server answers: as it should, late or not yet, or not at all. */
export type Answers = "there" | "slow" | "gone";

/** Asks it, and waits so many milliseconds for the answer. */
type Ask = (withinMs: number) => Promise<Answers>;

let ask: Ask = () => Promise.resolve("gone");
let onBack: () => void = () => undefined;

/** Says how the server is asked whether it is there, and what is done when it is back. */
export function watchConnection(isThere: Ask, back: () => void) {
  ask = isThere;
  onBack = back;
}

/** Looks whether the server is there, and tells it where it is not. */
export async function lookForServer() {
  const answers = await ask(atOnceMs);
  if (answers === "gone") missServer();
  else if (answers === "slow") await waitForServer();
}

/** Of a server that takes long it is told that it does, and that it is gone only where it goes on so. */
async function waitForServer() {
  const { isSlow, lostSince } = useConnection.getState();
  if (isSlow || lostSince !== null) return;
  useConnection.setState({ isSlow: true });
  const answers = await ask(busyAtMostMs);
  useConnection.setState({ isSlow: false });
  if (answers === "there") onBack();
  else missServer();
}

/** The server does not answer: it is asked until it does. */
export function missServer() {
  if (useConnection.getState().lostSince !== null) return;
  useConnection.setState({ lostSince: Date.now(), isSlow: false });
  void askUntilBack();
}

async function askUntilBack() {
  while ((await ask(busyAtMostMs)) !== "there") await new Promise((resolve) => setTimeout(resolve, askedEveryMs));
  useConnection.setState({ lostSince: null });
  onBack();
}
