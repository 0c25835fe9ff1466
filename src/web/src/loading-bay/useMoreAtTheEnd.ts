import { useEffect, useRef, useState } from "react";

const atFirst = 60;

/** So many of a long list are drawn at first, and as many more each time that its end comes near. */
export function useMoreAtTheEnd(all: number) {
  const [most, setMost] = useState(atFirst);
  const end = useRef<HTMLParagraphElement>(null);
  const isMore = most < all;
  // biome-ignore lint/correctness/useExhaustiveDependencies: after each step the end stands elsewhere, and is watched anew.
  useEffect(() => {
    if (!isMore || !end.current) return;
    const watch = new IntersectionObserver(([at]) => at?.isIntersecting && setMost((now) => now + atFirst), {
      rootMargin: "600px",
    });
    watch.observe(end.current);
    return () => watch.disconnect();
  }, [isMore, most]);
  return { most, end };
}
