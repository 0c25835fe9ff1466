import { useEffect, useRef, useState } from "react";

/** Whether the keyboard has fallen out of the page: what had it is gone. */
const isFallen = () => document.activeElement === null || document.activeElement === document.body;

/**
 * Where the button that somebody pressed gives way to others, the first of these that can be pressed gets the keyboard.
 * @param state Another value says that buttons may have given way.
 * @param within Where the buttons stand, as a selector.
 */
export function useKeptFocus(state: string, within: string) {
  const before = useRef(state);
  useEffect(() => {
    if (before.current === state) return;
    before.current = state;
    if (!isFallen()) return;
    const place = document.querySelector<HTMLElement>(within);
    const button = place?.querySelector<HTMLElement>("button:not(:disabled)");
    // While nothing can be pressed there, the place itself has the keyboard: the next button is one tab away.
    if (place && !button) place.tabIndex = -1;
    (button ?? place)?.focus();
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
