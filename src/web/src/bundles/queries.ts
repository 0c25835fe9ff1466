import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answer, api } from "../api/client";
import { keys } from "../api/queries";
import type { BundlePart, Recipient, RecipientView } from "../api/types";
import type { Printing } from "./SlipParts";

const recipients = ["recipients"] as const;

export const useBundles = (id: string) =>
  useQuery({
    queryKey: keys.bundles(id),
    queryFn: () => answer(api.GET("/api/sessions/{id}/bundles", { params: { path: { id } } })),
  });

/** What each choice weighs, before one is made; as the session is by this fingerprint. */
export const useBundleParts = (
  id: string,
  fingerprint: string,
  printing: Printing,
  packsSound: boolean,
  chosen: readonly BundlePart[] | null,
) =>
  useQuery({
    queryKey: [...keys.bundles(id), "parts", fingerprint, printing, packsSound && (chosen ?? true)],
    queryFn: ({ signal }) =>
      answer(
        api.GET("/api/sessions/{id}/bundles/parts", {
          params: { path: { id }, query: { ...printing, packsSound, parts: packsSound && chosen ? [...chosen] : [] } },
          signal,
        }),
      ),
    // Of this session, as it was a moment ago; never of another one.
    placeholderData: (before, last) => (last?.queryKey.includes(id) ? before : undefined),
  });

/** A packed bundle as its recipient finds it. It is read anew each time: somebody may have changed it. */
export const useOpenedBundle = (id: string, planId: string) =>
  useQuery({
    queryKey: [...keys.bundles(id), "opened", planId],
    queryFn: ({ signal }) =>
      answer(api.GET("/api/sessions/{id}/bundles/{planId}/opened", { params: { path: { id, planId } }, signal })),
    staleTime: 0,
    gcTime: 0,
  });

export const useRecipients = () =>
  useQuery({ queryKey: recipients, queryFn: () => answer(api.GET("/api/recipients")) });

export function useRecipientChanges() {
  const client = useQueryClient();
  const onSuccess = (all: RecipientView[]) => client.setQueryData(recipients, all);
  return {
    save: useMutation({ mutationFn: (body: Recipient) => answer(api.PUT("/api/recipients", { body })), onSuccess }),
    remove: useMutation({
      mutationFn: (name: string) => answer(api.DELETE("/api/recipients/{name}", { params: { path: { name } } })),
      onSuccess,
    }),
  };
}
