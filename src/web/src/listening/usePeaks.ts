import { useQuery } from "@tanstack/react-query";
import { useRecording } from "../api/queries";
import type { FileEntry } from "../api/types";
import { useSessionId } from "../session/sessionContext";
import { getPeaks } from "./mediaSource";

/** True for a file whose sound can be seen and heard. */
export const isAudible = (file: FileEntry) =>
  (file.standing === "Inside" || file.standing === "Outside") && file.sampleRate !== null && !file.growing;

/** The outline of a file: least and greatest sample in turn, from -127 to 127; null until it is there. */
export function usePeaks(file: FileEntry, stretches: number): Int8Array | null {
  const id = useSessionId();
  // While the recorder runs the disk is the take's: outlines that are not there yet wait.
  const isRecording = useRecording().data?.state === "Recording";
  const peaks = useQuery({
    queryKey: ["peaks", id, file.id, file.changed, stretches],
    enabled: id !== "" && isAudible(file) && !isRecording,
    staleTime: Number.POSITIVE_INFINITY,
    retry: false,
    // An empty answer means "not now": something records, and the disk is the take's.
    refetchInterval: ({ state }) => (state.data?.length === 0 ? 5_000 : false),
    queryFn: async () => new Int8Array(((await getPeaks(id, file, stretches)) as ArrayBuffer | undefined) ?? []),
  });
  return peaks.data ?? null;
}
