import { create } from "zustand";

const askedEveryMs = 1000;

/** Since when the server is gone, in milliseconds since 1970; null while it answers. */
const useConnection = create<{ lostSince: number | null }>(() => ({ lostSince: null }));

/** True while the server answers: without it nothing can be applied or recorded. */
export const useIsConnected = () => useConnection((c) => c.lostSince === null);

/** Since when it does not; null while it does. */
export const useLostSince = () => useConnection((c) => c.lostSince);

type Ask = () => Promise<boolean>;

let ask: Ask = () => Promise.resolve(false);
let onBack: () => void = () => undefined;

/** Says how the server is asked whether it is there, and what is done when it is back. */
export function watchConnection(isThere: Ask, back: () => void) {
  ask = isThere;
  onBack = back;
}

/** The server does not answer: it is asked until it does. */
export function missServer() {
  if (useConnection.getState().lostSince !== null) return;
  useConnection.setState({ lostSince: Date.now() });
  void askUntilBack();
}

async function askUntilBack() {
  while (!(await ask())) await new Promise((resolve) => setTimeout(resolve, askedEveryMs));
  useConnection.setState({ lostSince: null });
  onBack();
}
