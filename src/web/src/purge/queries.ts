import { useMutation, useQuery } from "@tanstack/react-query";
import { answer, api } from "../api/client";
import { hearJob, keys } from "../api/queries";

/** What counts beside the current version when it is said what could go. */
export interface Counting {
  olderVersions: boolean;
  otherSessions: boolean;
  keptSaves: boolean;
}

/** What could go out of a session, and what it holds set aside. */
export const usePurge = (id: string, counting: Counting) =>
  useQuery({
    queryKey: [...keys.files(id), "purge", counting],
    placeholderData: (previous) => previous,
    // What somebody stopped is not begun once more by itself.
    retry: false,
    queryFn: () => answer(api.GET("/api/sessions/{id}/purge", { params: { path: { id }, query: counting } })),
  });

/** Reads what may hold the same sound twice. */
export const useReadAlike = (id: string) =>
  useMutation({
    mutationFn: () => answer(api.POST("/api/sessions/{id}/purge/read", { params: { path: { id } } })),
    onSuccess: hearJob,
  });
