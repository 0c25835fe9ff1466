import { missServer, watchConnection } from "./connection";
import { hearJob, hearRecording, hearScan, hearSessionChange, keys, queryClient } from "./queries";
import type { Job, Recording, Scan } from "./types";

/** A server that hangs is heard no more for so long before it counts as gone. */
const silentMs = 4000;

/** The server may start again under an open page at any time. */
const triedEveryMs = 1000;

const isThere = async () => {
  try {
    return (await fetch("/api/jobs", { headers: { "X-Neat-Crate": "1" }, signal: AbortSignal.timeout(silentMs) })).ok;
  } catch {
    return false;
  }
};

/** Listens for news; after a break everything is asked for anew. */
export async function listen(): Promise<void> {
  const { HubConnectionBuilder, LogLevel } = await import("@microsoft/signalr");
  const connection = new HubConnectionBuilder()
    .withUrl("/hubs/jobs")
    .withServerTimeout(silentMs)
    .withAutomaticReconnect({ nextRetryDelayInMilliseconds: () => triedEveryMs })
    .configureLogging(LogLevel.Error)
    .build();
  connection.on("job", (job: Job) => hearJob(job));
  connection.on("recording", (recording: Recording) => {
    hearRecording(recording);
  });
  connection.on("scan", (scan: Scan) => hearScan(scan));
  connection.on("session", ({ id }: { id: string }) => void hearSessionChange(id));
  connection.on("shelves", () => {
    // What stands on a drive that came or went stands elsewhere now, in every session.
    for (const queryKey of [keys.shelves, keys.sessions]) void queryClient.invalidateQueries({ queryKey });
  });
  connection.on("notice", () => {
    // What is told mostly changed something.
    void queryClient.invalidateQueries({ queryKey: keys.notices });
    void queryClient.invalidateQueries({ queryKey: keys.sessions });
  });
  const askForAll = () => void queryClient.invalidateQueries();
  watchConnection(isThere, askForAll);
  connection.onreconnecting(missServer);
  connection.onreconnected(askForAll);
  while (!(await begins(connection))) await new Promise((resolve) => setTimeout(resolve, triedEveryMs));
  // What was told before anybody listened is asked for.
  for (const queryKey of [keys.jobs, keys.notices, keys.recording, keys.scans, keys.sessions])
    void queryClient.invalidateQueries({ queryKey });
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
