import { useMutation, useQuery } from "@tanstack/react-query";
import { answer, api } from "./client";
import { queryClient } from "./queries";

const key = ["document-kinds"] as const;

/** What was said of kinds of file: which are documents, and which are none. */
export const useDocumentKinds = () =>
  useQuery({ queryKey: key, queryFn: () => answer(api.GET("/api/document-kinds")) });

/** Says whether files of a kind are documents; null to guess again. It holds for every session at once. */
export const useSayDocumentKind = () =>
  useMutation({
    mutationFn: ({ ending, isDocument }: { ending: string; isDocument: boolean | null }) =>
      answer(api.PUT("/api/document-kinds/{ending}", { params: { path: { ending } }, body: { isDocument } })),
    onSuccess: (said) => {
      queryClient.setQueryData(key, said);
      void queryClient.invalidateQueries({ queryKey: ["sessions"] });
    },
  });

/** The ending by which a file is of a kind; null where it has none. */
export function endingOf(path: string): string | null {
  const name = path.slice(path.lastIndexOf("/") + 1);
  const dot = name.lastIndexOf(".");
  return dot > 0 && dot < name.length - 1 ? name.slice(dot).toLowerCase() : null;
}
