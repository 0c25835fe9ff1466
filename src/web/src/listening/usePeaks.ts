import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { queryClient, useRecording } from "../api/queries";
import type { FileEntry } from "../api/types";
import { useSessionId } from "../frame/sessionContext";
import { getPeaks, isLost } from "./mediaSource";

const settledAfterMs = 120;

/** True for a file whose sound can be seen and heard. */
export const isAudible = (file: FileEntry) =>
  (file.standing === "Inside" || file.standing === "Outside") && file.sampleRate !== null && !file.growing;

/** True for a file whose outline can be there: also one that is away, when it was seen before it left. */
const isOutlined = (file: FileEntry) =>
  isAudible(file) || ((file.standing === "Away" || isLost(file)) && file.sampleRate !== null);

const keyOf = (sessionId: string, file: FileEntry, stretches: number) =>
  ["peaks", sessionId, file.id, file.changed, file.standing === "Away", stretches] as const;

/** True once what asks has been in sight for a moment; at once where it need not wait. */
export function useHasStayed(needNotWait: () => boolean = () => false): boolean {
  const [hasStayed, setStayed] = useState(needNotWait);
  useEffect(() => {
    const timer = setTimeout(() => setStayed(true), settledAfterMs);
    return () => clearTimeout(timer);
  }, []);
  return hasStayed;
}

/**
 * True when the outline of a file is worth asking for: it is known already, or the row has been in sight for a moment.
 * Whoever scrolls past thousands wants the outlines of none of them.
 */
export function useIsSettled(file: FileEntry, stretches: number): boolean {
  const id = useSessionId();
  return useHasStayed(() => queryClient.getQueryData(keyOf(id, file, stretches)) !== undefined);
}

/** The outline of a file: least and greatest sample in turn, from -127 to 127; null until it is there. */
export function usePeaks(file: FileEntry, stretches: number): Int8Array | null {
  const id = useSessionId();
  // While the recorder runs the disk is the take's: outlines that are not there yet wait.
  const isRecording = useRecording().data?.state === "Recording";
  const peaks = useQuery<Int8Array>({
    queryKey: keyOf(id, file, stretches),
    enabled: id !== "" && isOutlined(file) && !isRecording,
    staleTime: Number.POSITIVE_INFINITY,
    retry: false,
    // An empty answer means "not now" where the file is there: something records, and the disk is the take's.
    refetchInterval: ({ state }) => (state.data?.length === 0 && isAudible(file) ? 5_000 : false),
    queryFn: async ({ signal }) =>
      new Int8Array(((await getPeaks(id, file, stretches, signal)) as ArrayBuffer | undefined) ?? []),
  });
  return peaks.data ?? null;
}
