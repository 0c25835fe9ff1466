import { type RefObject, useEffect, useRef, useState } from "react";

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
    if (button) button.focus();
    else if (place) focusPlace(place);
  }, [state, within]);
}

/** A place itself gets the keyboard: nothing in it is pressed by mistake, and its first button is one tab away. */
function focusPlace(place: HTMLElement) {
  place.tabIndex = -1;
  place.focus({ preventScroll: true });
}

// Rows that were worked off go a moment after the work is done, and with them what had the keyboard.
const fallsWithin = [0, 150, 400, 1000, 2000];

/**
 * Where what had the keyboard goes with a change, the place that tells of the change gets it, and none of its buttons: the next key that is
 * pressed must not undo what was done a moment ago.
 * @param state Another value says that something changed.
 * @param within The place, as a selector.
 */
export function useFocusCaught(state: string, within: string) {
  const before = useRef(state);
  useEffect(() => {
    if (before.current === state) return;
    before.current = state;
    const looks = fallsWithin.map((after) =>
      setTimeout(() => {
        const place = isFallen() ? document.querySelector<HTMLElement>(within) : null;
        if (place) focusPlace(place);
      }, after),
    );
    return () => looks.forEach(clearTimeout);
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

// The first page of all is announced by the browser itself.
let isFirstPage = true;

/** Where another page came and nothing on it took the keyboard, its heading has it: so it is announced, and the next tab goes on from there. */
export function useHeadingFocus(heading: RefObject<HTMLElement | null>, title: string | undefined) {
  useEffect(() => {
    if (!title) return;
    if (isFirstPage) isFirstPage = false;
    else if (isFallen()) heading.current?.focus({ preventScroll: true });
  }, [heading, title]);
}
