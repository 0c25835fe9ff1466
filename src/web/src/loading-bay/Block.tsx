import { type ReactNode, useEffect, useRef, useState } from "react";

/** About the height of a crate, in pixels, for those that were not drawn yet. */
const crateHeight = 100;
const near = "1200px";

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
      ([at]) => {
        if (!at) return;
        // Whoever works in it with the keyboard is not torn out of it.
        if (!at.isIntersecting && of.contains(document.activeElement)) return;
        if (!at.isIntersecting && of.childElementCount > 0) height.current = of.offsetHeight;
        setNear(at.isIntersecting);
      },
      { rootMargin: near },
    );
    watch.observe(of);
    return () => watch.disconnect();
  }, []);
  return (
    <div ref={box} style={isNear ? undefined : { height: height.current ?? crates * crateHeight }}>
      {isNear && children()}
    </div>
  );
}
