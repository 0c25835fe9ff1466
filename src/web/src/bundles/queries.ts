import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../api/client";
import { keys } from "../api/queries";

export const useBundles = (id: string) =>
  useQuery({
    queryKey: keys.bundles(id),
    queryFn: () => answer(api.GET("/api/sessions/{id}/bundles", { params: { path: { id } } })),
  });
