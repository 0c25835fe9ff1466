import { useEffect, useEffectEvent } from "react";

/** True while a key belongs to a field that is being typed in. */
export function isTyping(e: KeyboardEvent): boolean {
  const target = e.target as HTMLElement | null;
  return Boolean(
    target?.closest("input:not([type=checkbox]):not([type=radio]):not([type=range]), textarea, [contenteditable=true]"),
  );
}

/** True while nothing has the keyboard that could do anything with a key: the page itself, or a heading that was announced. */
export const isNowhere = () => {
  const { activeElement } = document;
  return (
    activeElement === null || activeElement === document.body || activeElement.matches("h1, #page, [aria-label=Plan]")
  );
};

/** True while a dialog is open: it has all keys, and nothing behind it may act. */
export const isDialogOpen = () => [...document.querySelectorAll("[role=dialog]")].some((d) => d.checkVisibility());

/** Hears keys of the whole page, but for those that belong to an open dialog. */
export function useKeys(onKey: (e: KeyboardEvent) => void) {
  const hear = useEffectEvent((e: KeyboardEvent) => {
    if (!e.defaultPrevented && !isDialogOpen()) onKey(e);
  });
  useEffect(() => {
    const listener = (e: KeyboardEvent) => hear(e);
    window.addEventListener("keydown", listener);
    return () => window.removeEventListener("keydown", listener);
  }, []);
}

/** True for a key with Ctrl, or with Cmd where keyboards have that instead. */
export const isChord = (e: KeyboardEvent) => e.ctrlKey || e.metaKey;

/** True for the keys that ask for the menu of what is at hand. Not every browser makes them ask for it by itself. */
export const isMenuKey = (e: KeyboardEvent) => e.key === "ContextMenu" || (e.shiftKey && e.key === "F10");

/** Hears one key by itself, but while somebody types. */
export function useShortcut(key: string, act: () => void) {
  useKeys((e) => {
    if (e.key !== key || isTyping(e) || isChord(e) || e.altKey) return;
    e.preventDefault();
    act();
  });
}
