import { type RefObject, useEffect, useState } from "react";

/** What has more in it than is in sight must be reached by the keyboard to be scrolled (WCAG 2.1.1); what has not is no stop on the way. */
export function useScrolledByKeys(place: RefObject<HTMLElement | null>): { tabIndex?: 0 } {
  const [isScrolled, setScrolled] = useState(false);
  useEffect(() => {
    const element = place.current;
    if (!element) return;
    const measure = () => setScrolled(element.scrollHeight > element.clientHeight + 1);
    const resized = new ResizeObserver(measure);
    const changed = new MutationObserver(measure);
    resized.observe(element);
    changed.observe(element, { childList: true, subtree: true, characterData: true });
    return () => {
      resized.disconnect();
      changed.disconnect();
    };
  });
  return isScrolled ? { tabIndex: 0 } : {};
}
