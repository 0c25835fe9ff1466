import { askAnew } from "./askAnew";
import { calm } from "./calm";
import { type Answers, lookForServer, missServer, watchConnection } from "./connection";
import { hearBackups, hearJob, hearRecording, hearScan, hearSessionChange, keys, queryClient } from "./queries";
import type { Job, Recording, Scan } from "./types";

/**
 * A server tells each second that it is there. Not heard for so long, it is asked once, and counts as gone where it does not
 * answer at once: a server that hangs is told of within two seconds. One that is merely busy is told apart from one that is gone.
 */
const silentMs = 1500;
// By the name of the error that a request ends with whose time is up (DOM, "AbortSignal.timeout").
const timeIsUp = "TimeoutError";

/** The server may start again under an open page at any time. */
const triedEveryMs = 1000;
const firstTriedAfterMs = 100;

const seenWhileWorkingMs = 5000;

const isAppliedTo = (id: string) =>
  queryClient
    .getQueryData<Job[]>(keys.jobs)
    ?.some((j) => j.work === "Apply" && j.sessionId === id && j.state === "Running") ?? false;

const isThere = async (withinMs: number): Promise<Answers> => {
  try {
    const signal = AbortSignal.timeout(withinMs);
    return (await fetch("/api/jobs", { headers: { "X-Neat-Crate": "1" }, signal })).ok ? "there" : "gone";
  } catch (error) {
    return error instanceof DOMException && error.name === timeIsUp ? "slow" : "gone";
  }
};

/** Listens for news; after a break everything is asked for anew. */
export async function listen(): Promise<void> {
  const { HubConnectionBuilder, LogLevel } = await import("@microsoft/signalr");
  const connection = new HubConnectionBuilder()
    .withUrl("/hubs/jobs")
    .withServerTimeout(silentMs)
    .withAutomaticReconnect({
      nextRetryDelayInMilliseconds: ({ previousRetryCount }) => {
        if (previousRetryCount === 0) return firstTriedAfterMs;
        missServer();
        return triedEveryMs;
      },
    })
    // A connection that breaks is seen to here, and told on the page.
    .configureLogging(LogLevel.Critical)
    .build();
  connection.on("job", (job: Job) => hearJob(job));
  connection.on("recording", (recording: Recording) => {
    hearRecording(recording);
  });
  connection.on("scan", (scan: Scan) => hearScan(scan));
  const hearSession = calm((id) => void hearSessionChange(id), isAppliedTo, seenWhileWorkingMs);
  connection.on("session", ({ id }: { id: string }) => hearSession(id));
  connection.on("backups", hearBackups);
  connection.on("shelves", () => {
    // What stands on a drive that came or went stands elsewhere now, in every session.
    for (const queryKey of [keys.shelves, keys.sessions]) void askAnew(queryClient, { queryKey });
  });
  connection.on("notice", () => {
    // What is told mostly changed something.
    void askAnew(queryClient, { queryKey: keys.notices });
    void askAnew(queryClient, { queryKey: keys.sessions });
  });
  const askForAll = () => void queryClient.invalidateQueries();
  watchConnection(isThere, askForAll);
  connection.onreconnecting(() => lookForServer());
  connection.onreconnected(askForAll);
  while (!(await begins(connection))) await new Promise((resolve) => setTimeout(resolve, triedEveryMs));
  // What was told before anybody listened is asked for.
  for (const queryKey of [keys.jobs, keys.notices, keys.recording, keys.scans, keys.sessions])
    void askAnew(queryClient, { queryKey });
}

async function begins(connection: { start: () => Promise<void> }): Promise<boolean> {
  try {
    await connection.start();
    return true;
  } catch {
    missServer();
    return false;
  }
}
