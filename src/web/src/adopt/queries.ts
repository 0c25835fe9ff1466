import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answer, api } from "../api/client";
import { keys } from "../api/queries";

export function useAdopt() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: { shelfId: string; path: string; document: string | null }) =>
      answer(api.POST("/api/adopt", { body })),
    onSuccess: () => client.invalidateQueries({ queryKey: keys.sessions }),
  });
}

/** What a folder holds that might be adopted. */
export const useAdoptLook = (shelfId: string | undefined, path: string) =>
  useQuery({
    queryKey: [...keys.adopt, shelfId, path],
    enabled: shelfId !== undefined && path !== "",
    staleTime: 0,
    queryFn: () => answer(api.POST("/api/adopt/look", { body: { shelfId: shelfId ?? "", path } })),
  });
