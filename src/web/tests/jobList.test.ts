import { expect, it } from "vitest";
import { withJob } from "../src/api/jobList";
import type { Job } from "../src/api/types";

const job = (id: string, state: Job["state"], revision: number) => ({ id, state, revision }) as Job;
const states = (jobs: readonly Job[]) => jobs.map((j) => `${j.id} ${j.state}`);

it("a new job comes first, and news about one replaces what was known", () => {
  const two = withJob(withJob([], job("a", "Queued", 0)), job("b", "Queued", 0));
  expect(states(two)).toEqual(["b Queued", "a Queued"]);
  expect(states(withJob(two, job("a", "Running", 1)))).toEqual(["b Queued", "a Running"]);
});

it.each(["Held", "Done", "Failed", "Cancelled"] as const)("older news do not undo that it is %s", (state) => {
  expect(states(withJob([job("a", state, 3)], job("a", "Running", 2)))).toEqual([`a ${state}`]);
});
