import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../api/client";
import { useRecording } from "../api/queries";
import type { FileEntry } from "../api/types";
import { useSessionId } from "../frame/sessionContext";
import { isAudible, useHasStayed } from "../listening/usePeaks";

/** How loud a take is; nothing until it is known, and nothing new while something records. */
export function useLevel(file: FileEntry) {
  const id = useSessionId();
  const isRecording = useRecording().data?.state === "Recording";
  // Whoever scrolls past many wants the levels of none of them: the whole file is read for it.
  const hasStayed = useHasStayed();
  const level = useQuery({
    queryKey: ["level", id, file.id, file.changed],
    enabled: hasStayed && isAudible(file) && !isRecording,
    staleTime: Number.POSITIVE_INFINITY,
    retry: false,
    refetchInterval: ({ state }) => (state.data === null ? 5_000 : false),
    queryFn: async () =>
      (await answer(
        api.GET("/api/sessions/{id}/files/{fileId}/level", { params: { path: { id, fileId: file.id } } }),
      )) ?? null,
  });
  return level.data ?? null;
}
