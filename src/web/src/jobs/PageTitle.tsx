import { useEffect, useState } from "react";
import { isOver, useJobs } from "../api/queries";
import { percent } from "./progress";

/** What the browser's tab says: the page, before it how far the work is, and that it ended while nobody looked. */
export function PageTitle({ children }: { children: string }) {
  const { data: jobs = [] } = useJobs();
  const [unseen, setUnseen] = useState<string | null>(null);
  const running = jobs.find((j) => j.work === "Apply" && !isOver(j));
  const last = jobs.find((j) => j.work === "Apply" && isOver(j));
  const lastState = last && Date.now() - Date.parse(last.ended ?? "") < 5_000 ? last.state : null;
  useEffect(() => {
    if (lastState && document.hidden) setUnseen(lastState === "Done" ? "Done" : "Look here");
    const seen = () => document.hidden || setUnseen(null);
    document.addEventListener("visibilitychange", seen);
    return () => document.removeEventListener("visibilitychange", seen);
  }, [lastState]);
  const before = running ? `${percent(running)} % · ` : unseen ? `${unseen} · ` : "";
  return <title>{`${before}${children} · Neat Crate`}</title>;
}
