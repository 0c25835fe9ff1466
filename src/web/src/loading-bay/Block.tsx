import { type ReactNode, useEffect, useRef, useState } from "react";
import { flushSync } from "react-dom";
import css from "./loading-bay.module.css";

/** About the height of a crate, in pixels, for those that were not drawn yet. */
const crateHeight = 100;
const near = "600px";

interface Props {
  crates: number;
  /** Whether it is drawn before it is known where it stands. */
  isFirst: boolean;
  children: () => ReactNode;
}

/** A block of a long list: drawn while it is near what is in sight, and as high as it was while it is not. */
export function Block({ crates, isFirst, children }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const [isNear, setNear] = useState(isFirst);
  const height = useRef<number | null>(null);
  useEffect(() => {
    const of = box.current;
    if (!of) return;
    const watch = new IntersectionObserver(
      (seen) => {
        const at = seen.at(-1);
        if (!at) return;
        // Whoever works in it with the keyboard is not torn out of it.
        if (!at.isIntersecting && of.contains(document.activeElement)) return;
        if (!at.isIntersecting && of.childElementCount > 0) height.current = of.offsetHeight;
        setNear(at.isIntersecting);
      },
      // The page scrolls in its frame: from the window's edge on nothing would be drawn before it is seen, nor reached by Tab.
      { root: of.closest("main"), rootMargin: near },
    );
    watch.observe(of);
    // On paper nothing is out of sight.
    const drawForPrint = () => flushSync(() => setNear(true));
    window.addEventListener("beforeprint", drawForPrint);
    return () => {
      watch.disconnect();
      window.removeEventListener("beforeprint", drawForPrint);
    };
  }, []);
  return (
    <div
      ref={box}
      className={css.block}
      style={isNear ? undefined : { height: height.current ?? crates * crateHeight }}
    >
      {isNear && children()}
    </div>
  );
}
