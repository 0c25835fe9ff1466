import { useEffect, useRef } from "react";

/** Whether the keyboard has fallen out of the page: what had it is gone. */
const isFallen = () => document.activeElement === null || document.activeElement === document.body;

/**
 * Where the button that somebody pressed gives way to others, the first of these gets the keyboard.
 * @param state Another value says that buttons may have given way.
 * @param within Where the buttons stand, as a selector.
 */
export function useKeptFocus(state: string, within: string) {
  const before = useRef(state);
  useEffect(() => {
    if (before.current === state) return;
    before.current = state;
    if (isFallen()) document.querySelector<HTMLElement>(`${within} button:not(:disabled)`)?.focus();
  }, [state, within]);
}
