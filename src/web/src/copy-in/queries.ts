import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answer, api } from "../api/client";
import { hearSessionChange, keys } from "../api/queries";
import type { CopyInMark, CopyInWay, FilesPart } from "../api/types";

/** How a session is copied in. */
export const useCopyInWay = (id: string) =>
  useQuery({
    queryKey: keys.copyInWay(id),
    queryFn: () => answer(api.GET("/api/sessions/{id}/copy-in", { params: { path: { id } } })),
  });

/** What stands outside, by kind; asked anew where any of it changed. */
export const useCopyKinds = (id: string, fingerprint: string) =>
  useQuery({
    queryKey: [...keys.copyInWay(id), "kinds", fingerprint],
    placeholderData: (previous) => previous,
    queryFn: () => answer(api.GET("/api/sessions/{id}/copy-in/kinds", { params: { path: { id } } })),
  });

export function useChangeCopyInWay(id: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: CopyInWay) => answer(api.PUT("/api/sessions/{id}/copy-in", { params: { path: { id } }, body })),
    onSuccess: (way) => {
      client.setQueryData(keys.copyInWay(id), way);
      // What is left out by its kind is left out in every list.
      hearSessionChange(id);
    },
  });
}

/** Marks outside files as taken or left out. The page shows it at once; the server's word follows. */
export function useMarkForCopyIn(id: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: CopyInMark) =>
      answer(api.POST("/api/sessions/{id}/copy-in/marks", { params: { path: { id } }, body })),
    onMutate: ({ fileIds, taken }) => {
      const ids = new Set(fileIds);
      client.setQueriesData<FilesPart>(
        { queryKey: [...keys.files(id), "list"] },
        (part) => part && { ...part, files: part.files.map((f) => (ids.has(f.id) ? { ...f, leftOut: !taken } : f)) },
      );
    },
    onSettled: () => hearSessionChange(id),
  });
}

/** The first time at which sounds of so many seconds find room on a track, one after the other; null where nothing tells it. */
export const useFreeTime = (id: string, track: string | null, seconds: number, documentChanged: string | null) =>
  useQuery({
    queryKey: ["free time", id, track, seconds, documentChanged],
    enabled: track !== null && track !== "",
    placeholderData: (previous) => previous,
    queryFn: async () =>
      (
        await answer(
          api.GET("/api/sessions/{id}/import/free", {
            params: { path: { id }, query: { track: track ?? "", seconds } },
          }),
        )
      ).seconds,
  });

/** Formats and sample rates that occur in the catalogue. */
export const useCatalogueFacets = () =>
  useQuery({
    queryKey: [...keys.catalogue, "facets"],
    queryFn: () => answer(api.GET("/api/catalogue/facets")),
  });
