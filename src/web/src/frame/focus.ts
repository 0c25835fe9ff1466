import { useEffect, useRef, useState } from "react";

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

/** For a dialog that goes away when it is closed: what had the keyboard before it has it again. */
export function useFocusBack() {
  const [before] = useState(() => document.activeElement);
  useEffect(
    () => () => {
      // The dialog is still there while it is taken away; what had the keyboard in it is gone a moment later.
      queueMicrotask(() => isFallen() && before instanceof HTMLElement && before.focus());
    },
    [before],
  );
}
