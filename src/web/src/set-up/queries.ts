import { useMutation, useQueryClient } from "@tanstack/react-query";
import { answer, api } from "../api/client";
import { keys } from "../api/queries";

/** States another document as the current one. */
export function useChooseDocument(id: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (document: string) =>
      answer(api.PUT("/api/sessions/{id}/document", { params: { path: { id } }, body: { document } })),
    onSuccess: () => client.invalidateQueries({ queryKey: keys.sessions }),
  });
}
