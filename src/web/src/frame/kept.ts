import { useCallback, useEffect, useMemo, useState } from "react";
import { create } from "zustand";
import { forgetMarks, rememberMark, showMarks } from "./markHistory";
import { useSessionId } from "./sessionContext";

/** What is kept lies under this name and its version: another version's is not understood, and left alone. */
const prefix = "neat-crate 1 ";

/** Whether it is kept as long as the tab is open, or in this browser for good. */
type Where = "tab" | "browser";

const storageOf = (where: Where) => (where === "tab" ? sessionStorage : localStorage);

const useStore = create<Readonly<Record<string, unknown>>>(() => ({}));

/** What was read from the browser's store, each once: whoever asks again gets the same. */
const found = new Map<string, unknown>();

function read(where: Where, key: string): unknown {
  if (found.has(key)) return found.get(key);
  let value: unknown;
  try {
    const text = storageOf(where).getItem(prefix + key);
    value = text === null ? undefined : (JSON.parse(text) as unknown);
  } catch {
    // Something else stands under the name, or the browser keeps nothing: what is standard will do.
    value = undefined;
  }
  found.set(key, value);
  return value;
}

function write(where: Where, key: string, value: unknown) {
  found.set(key, value);
  // What is forgotten is told as well: pages that read it from the browser's store show it still.
  useStore.setState({ [key]: value ?? null });
  try {
    if (value === undefined) storageOf(where).removeItem(prefix + key);
    else storageOf(where).setItem(prefix + key, JSON.stringify(value));
  } catch {
    // The browser has no room: it is kept as long as the page is open.
  }
}

const isPlain = (value: unknown): value is object =>
  typeof value === "object" && value !== null && !Array.isArray(value);

/** What was kept, in the shape that is wanted now: members that it lacks are as at first. */
export function shaped<T>(kept: unknown, first: T): T {
  if (kept === undefined || kept === null) return first;
  if (isPlain(first)) return isPlain(kept) ? { ...first, ...kept } : first;
  return first !== null && (typeof kept !== typeof first || Array.isArray(kept) !== Array.isArray(first))
    ? first
    : (kept as T);
}

/** A value of the page that outlives it. */
type Kept<T> = readonly [T, (next: T) => void];

function useKept<T>(where: Where, key: string, first: T): Kept<T> {
  const told = useStore((s) => s[key]);
  const stored = told === undefined ? read(where, key) : told;
  const [standard] = useState(first);
  const value = useMemo(() => shaped(stored, standard), [stored, standard]);
  const set = useCallback((next: T) => write(where, key, next ?? undefined), [where, key]);
  return [value, set];
}

/** A choice that is remembered in this browser. */
export const useRemembered = <T>(name: string, first: T): Kept<T> => useKept("browser", name, first);

/** The same outside of pages. */
export const remembered = <T>(name: string, first: T): T => shaped(read("browser", name), first);

/** Remembers a choice. */
export const keep = (name: string, value: unknown) => write("browser", name, value);

const draftKey = (sessionId: string, name: string) => `draft ${sessionId} ${name}`;

/**
 * What somebody typed or chose and did not apply yet. It belongs to the session at hand (or to the page that makes a new
 * one), and outlives leaving the page and loading it anew. Only what JSON can hold.
 */
export function useDraft<T>(name: string, first: T): Kept<T> {
  return useKept("tab", draftKey(useSessionId(), name), first);
}

/** A draft of marks: each change of it is taken back by Ctrl + Z as long as it is in sight and not applied. */
export function useMarks<T>(name: string, first: T): Kept<T> {
  const sessionId = useSessionId();
  const [value, set] = useDraft(name, first);
  useEffect(() => showMarks(sessionId, name), [sessionId, name]);
  const mark = useCallback(
    (next: T) => {
      // Who marks what is marked already has changed nothing, and nothing is to be taken back.
      if (JSON.stringify(next) !== JSON.stringify(value))
        rememberMark(sessionId, { scope: name, undo: () => set(value), redo: () => set(next) });
      set(next);
    },
    [sessionId, name, value, set],
  );
  return [value, mark];
}

/** Chooses something in a session before one goes there. */
export const draft = (sessionId: string, name: string, value: unknown) =>
  write("tab", draftKey(sessionId, name), value);

/** Forgets drafts: what they asked for is done. */
export function forgetDrafts(sessionId: string, names: readonly string[]) {
  for (const name of names) {
    write("tab", draftKey(sessionId, name), undefined);
    forgetMarks(sessionId, name);
  }
}
