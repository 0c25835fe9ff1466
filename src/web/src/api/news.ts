import { hearJob, hearRecording, hearScan, hearSessionChange, keys, queryClient } from "./queries";
import type { Job, Recording, Scan } from "./types";

/** Listens for news about jobs; after a break everything is asked for anew. */
export async function listen(): Promise<void> {
  const { HubConnectionBuilder, LogLevel } = await import("@microsoft/signalr");
  const connection = new HubConnectionBuilder()
    .withUrl("/hubs/jobs")
    .withAutomaticReconnect({ nextRetryDelayInMilliseconds: (c) => Math.min(1000 * 2 ** c.previousRetryCount, 10_000) })
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
  connection.onreconnected(() => queryClient.invalidateQueries());
  await connection.start();
  // What was told before anybody listened is asked for.
  for (const queryKey of [keys.jobs, keys.notices, keys.recording, keys.scans, keys.sessions])
    void queryClient.invalidateQueries({ queryKey });
}
