import { QueryClient, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answer, api } from "./client";
import type { Job, Preset, ShelfKind } from "./types";

export const queryClient = new QueryClient({
  defaultOptions: { queries: { retry: 1, staleTime: 5_000, refetchOnWindowFocus: "always" } },
});

export const keys = {
  sessions: ["sessions"] as const,
  session: (id: string) => ["sessions", id] as const,
  history: (id: string) => ["sessions", id, "history"] as const,
  bundles: (id: string) => ["sessions", id, "bundles"] as const,
  shelves: ["shelves"] as const,
  jobs: ["jobs"] as const,
  notices: ["notices"] as const,
  presets: ["presets"] as const,
};

export const useSessions = () =>
  useQuery({ queryKey: keys.sessions, queryFn: () => answer(api.GET("/api/sessions")), refetchInterval: 60_000 });

export const useSession = (id: string) =>
  useQuery({
    queryKey: keys.session(id),
    queryFn: () => answer(api.GET("/api/sessions/{id}", { params: { path: { id } } })),
  });

export const useHistory = (id: string) =>
  useQuery({
    queryKey: keys.history(id),
    enabled: id !== "",
    queryFn: () => answer(api.GET("/api/sessions/{id}/history", { params: { path: { id } } })),
  });

export const useBundles = (id: string) =>
  useQuery({
    queryKey: keys.bundles(id),
    queryFn: () => answer(api.GET("/api/sessions/{id}/bundles", { params: { path: { id } } })),
  });

export const useShelves = () =>
  useQuery({ queryKey: keys.shelves, queryFn: () => answer(api.GET("/api/shelves")), refetchInterval: 15_000 });

export const useFolders = (shelfId: string | undefined, path: string) =>
  useQuery({
    queryKey: ["shelves", shelfId, "folders", path],
    enabled: shelfId !== undefined,
    queryFn: () =>
      answer(api.GET("/api/shelves/{id}/folders", { params: { path: { id: shelfId ?? "" }, query: { path } } })),
  });

export const useJobs = () => useQuery({ queryKey: keys.jobs, queryFn: () => answer(api.GET("/api/jobs")) });

export const useNotices = () => useQuery({ queryKey: keys.notices, queryFn: () => answer(api.GET("/api/notices")) });

export function useDismissNotice() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (id: string) => answer(api.DELETE("/api/notices/{id}", { params: { path: { id } } })),
    onSuccess: () => client.invalidateQueries({ queryKey: keys.notices }),
  });
}

export function useAdopt() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: { shelfId: string; path: string }) => answer(api.POST("/api/sessions/adopt", { body })),
    onSuccess: () => client.invalidateQueries({ queryKey: keys.sessions }),
  });
}

export function useForgetSession() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (id: string) => answer(api.DELETE("/api/sessions/{id}", { params: { path: { id } } })),
    onSuccess: () => client.invalidateQueries({ queryKey: keys.sessions }),
  });
}

export const usePresets = () =>
  useQuery({
    queryKey: keys.presets,
    queryFn: () => answer(api.GET("/api/set-up/presets")),
    staleTime: Number.POSITIVE_INFINITY,
  });

/** Changes to the presets; each answers with all of them. */
export function usePresetChanges() {
  const client = useQueryClient();
  const onSuccess = (presets: Preset[]) => client.setQueryData(keys.presets, presets);
  return {
    save: useMutation({ mutationFn: (body: Preset) => answer(api.PUT("/api/set-up/presets", { body })), onSuccess }),
    remove: useMutation({
      mutationFn: (name: string) => answer(api.DELETE("/api/set-up/presets/{name}", { params: { path: { name } } })),
      onSuccess,
    }),
    makeDefault: useMutation({
      mutationFn: (name: string) =>
        answer(api.PUT("/api/set-up/presets/{name}/default", { params: { path: { name } } })),
      onSuccess,
    }),
  };
}

export function useAddShelf() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: { name: string; kind: ShelfKind; path: string }) => answer(api.POST("/api/shelves", { body })),
    onSuccess: () => client.invalidateQueries({ queryKey: keys.shelves }),
  });
}

export function useForgetShelf() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (id: string) => answer(api.DELETE("/api/shelves/{id}", { params: { path: { id } } })),
    onSuccess: () => client.invalidateQueries({ queryKey: keys.shelves }),
  });
}

/** Takes in news about a job; when it is over, everything that it may have changed is looked at again. */
export function takeJob(job: Job) {
  queryClient.setQueryData<Job[]>(keys.jobs, (jobs = []) =>
    jobs.some((j) => j.id === job.id) ? jobs.map((j) => (j.id === job.id ? job : j)) : [job, ...jobs],
  );
  if (isOver(job)) {
    void queryClient.invalidateQueries({ queryKey: keys.sessions });
    void queryClient.invalidateQueries({ queryKey: keys.shelves });
    void queryClient.invalidateQueries({ queryKey: keys.notices });
  }
}

export const isOver = (job: Job) => job.state === "Done" || job.state === "Failed" || job.state === "Cancelled";
