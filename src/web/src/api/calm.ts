/**
 * While work changes a session, the session tells of every change, and all of it is looked at anew once the work is over. Until then
 * it is looked at seldom: whoever waits wants to see how far it is, and that the page answers.
 * @param hear Looks at a session anew.
 * @param isWorking Whether work changes it at this moment.
 * @param everyMs How often it is looked at meanwhile.
 */
export function calm(hear: (id: string) => void, isWorking: (id: string) => boolean, everyMs: number) {
  const waiting = new Set<string>();
  return (id: string) => {
    if (!isWorking(id)) {
      hear(id);
      return;
    }
    if (waiting.has(id)) return;
    waiting.add(id);
    setTimeout(() => {
      waiting.delete(id);
      // Where the work is over, what it changed has been asked for.
      if (isWorking(id)) hear(id);
    }, everyMs);
  };
}
