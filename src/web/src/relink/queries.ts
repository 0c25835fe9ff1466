import { useMutation, useQuery } from "@tanstack/react-query";
import { answer, api } from "../api/client";
import { hearJob, hearSessionChange, keys } from "../api/queries";
import type { LostMark } from "../api/types";

/** What a session misses, and what is known of it. */
export const useRelink = (id: string) =>
  useQuery({
    queryKey: [...keys.files(id), "relink"],
    queryFn: () => answer(api.GET("/api/sessions/{id}/relink", { params: { path: { id } } })),
  });

/**
 * All about one missing file, as it is at a revision of what the session misses: at the next it may be missing no more, and is
 * not asked for.
 */
export const useLostFile = (id: string, lostId: string | null, revision: string | undefined) =>
  useQuery({
    queryKey: ["lost", id, lostId, revision],
    enabled: lostId !== null && revision !== undefined,
    retry: false,
    placeholderData: (previous) => previous,
    queryFn: () =>
      answer(api.GET("/api/sessions/{id}/relink/lost/{lostId}", { params: { path: { id, lostId: lostId ?? "" } } })),
  });

/** Marks missing files, searches places for them, and reads what may be one. */
export function useRelinkWork(id: string) {
  const params = { path: { id } };
  return {
    mark: useMutation({
      mutationFn: (body: { lostIds: string[]; mark: LostMark; note: string | null }) =>
        answer(api.POST("/api/sessions/{id}/relink/marks", { params, body })),
      onSettled: () => hearSessionChange(id),
    }),
    search: useMutation({
      mutationFn: (places: string[]) =>
        answer(api.POST("/api/sessions/{id}/relink/search", { params, body: { places } })),
      onSuccess: hearJob,
    }),
    read: useMutation({
      mutationFn: () => answer(api.POST("/api/sessions/{id}/relink/read", { params })),
      onSuccess: hearJob,
    }),
  };
}
