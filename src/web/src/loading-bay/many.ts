import type { Job, ManyPlan, ManyWork } from "../api/types";
import { count, size } from "../words";

/** What is done in many sessions at once, in words, and the station that does it in one. */
export const manyWord: Record<ManyWork, { title: string; act: string; station: string; nothing: string }> = {
  CopyIn: {
    title: "Copy in, many sessions",
    act: "Copy in",
    station: "copy-in",
    nothing: "Nothing stands outside in any of them that would be copied in.",
  },
  Relink: {
    title: "Relink, many sessions",
    act: "Relink",
    station: "relink",
    nothing: "Nothing that is missing in any of them was found for certain.",
  },
};

/** Those in which something is done. */
export const doableOf = (plans: readonly ManyPlan[]) => plans.filter((p) => p.planId !== null);

/** What stands in the way first, then what is done, then those in which there is nothing to do. */
export const inOrder = (plans: readonly ManyPlan[]) => {
  const rank = (p: ManyPlan) => (p.isRefused ? 0 : p.planId !== null ? 1 : 2);
  return [...plans].sort((a, b) => rank(a) - rank(b));
};

/** What is done, and in how many not, in one line. */
export function sumOfPlans(work: ManyWork, plans: readonly ManyPlan[]): string {
  const doable = doableOf(plans);
  const refused = plans.filter((p) => p.isRefused).length;
  const quiet = plans.length - doable.length - refused;
  if (doable.length === 0 && refused === 0) return manyWord[work].nothing;
  const parts = [
    doable.length > 0 &&
      `${count(doable.length, "session")}, ${size(doable.reduce((sum, p) => sum + p.bytes, 0))} copied`,
    quiet > 0 && `nothing to do in ${quiet}`,
    refused > 0 && `something stands in the way in ${refused}`,
  ];
  return `${parts.filter(Boolean).join("; ")}. Each is a plan of its own, and is undone by itself.`;
}

/** What came of all of them. */
export function endOf(jobs: readonly Pick<Job, "state">[]): string {
  const of = (state: Job["state"]) => jobs.filter((j) => j.state === state).length;
  const [failed, cancelled] = [of("Failed"), of("Cancelled")];
  const parts = [
    `${count(of("Done"), "session")} done`,
    failed > 0 && `${failed} not done`,
    cancelled > 0 && `${cancelled} cancelled`,
  ];
  return `${parts.filter(Boolean).join(", ")}.`;
}
