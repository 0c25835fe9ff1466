import { QueryClient, type QueryKey, queryOptions, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { askAnew } from "./askAnew";
import { answer, api } from "./client";
import { isOver, withJob } from "./jobList";
import type { FileEntry, Job, ManyAsked, MediaKind, Preset, Recording, Scan, ShelfKind } from "./types";

export { isOver };

export const queryClient = new QueryClient({
  defaultOptions: { queries: { retry: 1, staleTime: 5_000, refetchOnWindowFocus: "always" } },
});

export const keys = {
  sessions: ["sessions"] as const,
  session: (id: string) => ["sessions", id] as const,
  files: (id: string) => ["sessions", id, "files"] as const,
  history: (id: string) => ["sessions", id, "history"] as const,
  bundles: (id: string) => ["sessions", id, "bundles"] as const,
  copyInWay: (id: string) => ["sessions", id, "copy-in"] as const,
  record: (id: string) => ["sessions", id, "record"] as const,
  recording: ["recording"] as const,
  shelves: ["shelves"] as const,
  scans: ["scans"] as const,
  catalogue: ["catalogue"] as const,
  adopt: ["adopt"] as const,
  loss: (shelfId: string) => ["shelves", shelfId, "loss"] as const,
  found: (shelfId: string) => ["adopt", "found", shelfId] as const,
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

export const historyQuery = (id: string) =>
  queryOptions({
    queryKey: keys.history(id),
    enabled: id !== "",
    queryFn: () => answer(api.GET("/api/sessions/{id}/history", { params: { path: { id } } })),
  });

export const useHistory = (id: string) => useQuery(historyQuery(id));

export const useShelves = () =>
  useQuery({ queryKey: keys.shelves, queryFn: () => answer(api.GET("/api/shelves")), refetchInterval: 15_000 });

export const useFolders = (shelfId: string | undefined, path: string) =>
  useQuery({
    queryKey: ["shelves", shelfId, "folders", path],
    enabled: shelfId !== undefined,
    queryFn: () =>
      answer(api.GET("/api/shelves/{id}/folders", { params: { path: { id: shelfId ?? "" }, query: { path } } })),
  });

const jobsQuery = { queryKey: keys.jobs, queryFn: () => answer(api.GET("/api/jobs")) };

export const useJobs = () => useQuery(jobsQuery);

/**
 * What follows from the list of jobs. Jobs tell of themselves four times a second: whoever asks is drawn anew only where what follows is
 * another, so that a station stands still while the tray counts.
 */
export const useOfJobs = <T>(select: (jobs: Job[]) => T): T | undefined => useQuery({ ...jobsQuery, select }).data;

export const useNotices = () =>
  useQuery({ queryKey: keys.notices, queryFn: () => answer(api.GET("/api/notices")), refetchInterval: 60_000 });

export function useDismissNotice() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (id: string) => answer(api.DELETE("/api/notices/{id}", { params: { path: { id } } })),
    onSuccess: () => client.invalidateQueries({ queryKey: keys.notices }),
  });
}

/** What the recorder is doing, or did last. The hub tells; should it be silent while something records, the page asks. */
export const useRecording = () =>
  useQuery({
    queryKey: keys.recording,
    queryFn: async () => (await answer(api.GET("/api/recording"))).recording,
    refetchInterval: ({ state }) => (state.data?.state === "Recording" ? 2_000 : false),
  });

/** Takes in how a recording goes. */
export const hearRecording = (recording: Recording) => queryClient.setQueryData(keys.recording, recording);

interface Refreshing {
  again: boolean;
  done: Promise<void>;
}

/** What is being asked for anew, and whether it was told of once more meanwhile. */
const refreshing = new Map<string, Refreshing>();

/**
 * Asks for something anew, once at a time however often it is told that it changed: a question that is asked again before
 * it is answered would never be.
 */
function refresh(filters: { queryKey: QueryKey; exact?: boolean }): Promise<void> {
  const name = JSON.stringify(filters);
  const running = refreshing.get(name);
  if (running) {
    running.again = true;
    return running.done;
  }
  const own: Refreshing = { again: false, done: Promise.resolve() };
  const askUntilTrue = async () => {
    try {
      do {
        own.again = false;
        await askAnew(queryClient, filters);
      } while (own.again);
    } finally {
      refreshing.delete(name);
    }
  };
  refreshing.set(name, own);
  own.done = askUntilTrue();
  return own.done;
}

/** Something in a session's folder changed: what is in sight of it is asked for. */
export async function hearSessionChange(id: string) {
  for (const queryKey of [keys.notices, keys.record(id)]) void refresh({ queryKey });
  void refresh({ queryKey: keys.sessions, exact: true });
  await Promise.all([refresh({ queryKey: keys.session(id), exact: true }), refresh({ queryKey: keys.files(id) })]);
}

/** All about one file; nothing where none is chosen. */
export const useFile = (sessionId: string, fileId: string | null) =>
  useQuery({
    queryKey: [...keys.files(sessionId), "one", fileId],
    enabled: fileId !== null,
    retry: false,
    queryFn: () =>
      answer(
        api.GET("/api/sessions/{id}/files/{fileId}", { params: { path: { id: sessionId, fileId: fileId ?? "" } } }),
      ),
  });

/** Where a file is on the machine, and its folder in the machine's own file manager. */
export function useShowInFolder(sessionId: string) {
  const params = (fileId: string) => ({ params: { path: { id: sessionId, fileId } } });
  return {
    path: useMutation({
      mutationFn: async (fileId: string) =>
        (await answer(api.GET("/api/sessions/{id}/files/{fileId}/path", params(fileId)))).path,
    }),
    show: useMutation({
      mutationFn: (fileId: string) => answer(api.POST("/api/sessions/{id}/files/{fileId}/show", params(fileId))),
    }),
  };
}

/** The last scan of every shelf, running or over. The hub tells of progress. */
export const useScans = () =>
  useQuery({
    queryKey: keys.scans,
    queryFn: () => answer(api.GET("/api/shelves/scans")),
    refetchInterval: ({ state }) => (state.data?.some((s) => !isScanOver(s)) ? 2_000 : false),
  });

export const isScanOver = (scan: Scan) => ["Done", "Failed", "Cancelled"].includes(scan.state);

/** Takes in how far a scan is; when it is over, what it changed is asked for. */
export function hearScan(scan: Scan) {
  queryClient.setQueryData<Scan[]>(keys.scans, (scans = []) => [
    ...scans.filter((s) => s.shelfId !== scan.shelfId),
    scan,
  ]);
  if (isScanOver(scan)) {
    for (const queryKey of [keys.shelves, keys.catalogue]) void queryClient.invalidateQueries({ queryKey });
    // What was seen, or is gone, may be what a session misses.
    void queryClient.invalidateQueries({ predicate: ({ queryKey }) => queryKey[3] === "relink" });
    if (scan.found.length > 0) void queryClient.invalidateQueries({ queryKey: keys.sessions });
  }
}

/** Begins and stops scans. */
export const useScanning = () => ({
  start: useMutation({
    mutationFn: (id: string) => answer(api.POST("/api/shelves/{id}/scan", { params: { path: { id } } })),
    onSuccess: hearScan,
  }),
  cancel: useMutation({
    mutationFn: (id: string) => answer(api.POST("/api/shelves/{id}/scan/cancel", { params: { path: { id } } })),
  }),
});

/** What on a shelf cannot be read. */
export const useUnreadable = (id: string, enabled: boolean) =>
  useQuery({
    queryKey: [...keys.catalogue, "unreadable", id],
    enabled,
    queryFn: () => answer(api.GET("/api/shelves/{id}/unreadable", { params: { path: { id } } })),
  });

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

/** What sessions that stand elsewhere need from each shelf. */
export const useShelfNeeds = () =>
  useQuery({ queryKey: [...keys.shelves, "needs"], queryFn: () => answer(api.GET("/api/shelves/needs")) });

export function useChangeShelf() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: ({ id, ...body }: { id: string; name: string; kind: ShelfKind; path: string }) =>
      answer(api.PUT("/api/shelves/{id}", { params: { path: { id } }, body })),
    // Another place of a shelf is another place of all sessions on it.
    onSuccess: () =>
      Promise.all([keys.shelves, keys.sessions].map((queryKey) => client.invalidateQueries({ queryKey }))),
  });
}

/** Plugs in or unplugs a drive of the demo. */
export function useSimulateDrive() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: ({ id, plug }: { id: string; plug: boolean }) =>
      answer(api.POST(plug ? "/api/shelves/{id}/plug" : "/api/shelves/{id}/unplug", { params: { path: { id } } })),
    onSuccess: () => client.invalidateQueries(),
  });
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

/** A newer shelf is the drive of one that is away, or it is another. */
export function useSayWhetherSame() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: ({ id, isSame }: { id: string; isSame: boolean }) =>
      answer(api.POST("/api/shelves/{id}/same", { params: { path: { id } }, body: { isSame } })),
    onSuccess: () => client.invalidateQueries(),
  });
}

const changesBackups: ReadonlySet<Job["work"]> = new Set(["Backup", "Thinning", "CatchUp", "Check"]);

/** Takes in news about a job; when it is over, everything that it may have changed is looked at again. */
export function hearJob(job: Job) {
  queryClient.setQueryData<Job[]>(keys.jobs, (jobs = []) => withJob(jobs, job));
  // Other work changes nothing that is shown, or says so itself.
  if (isOver(job) && changesBackups.has(job.work) && job.sessionId) hearBackups(job.sessionId);
  if (isOver(job) && (job.work === "Apply" || job.work === "Check")) {
    void queryClient.invalidateQueries({ queryKey: keys.sessions });
    void queryClient.invalidateQueries({ queryKey: keys.shelves });
    void queryClient.invalidateQueries({ queryKey: keys.notices });
    void queryClient.invalidateQueries({ queryKey: keys.adopt });
  }
  if (isOver(job) && job.work === "Adopt") {
    void queryClient.invalidateQueries({ queryKey: keys.sessions });
    void queryClient.invalidateQueries({ queryKey: keys.adopt });
    void queryClient.invalidateQueries({ queryKey: keys.shelves });
  }
  if (isOver(job) && job.work === "Search" && job.shelfId)
    void queryClient.invalidateQueries({ queryKey: keys.found(job.shelfId) });
}

/** Begins a full backup of every session of which something is only here. */
export const useBackUpOnlyHere = () =>
  useMutation({
    mutationFn: () => answer(api.POST("/api/backups/only-here")),
    onSuccess: ({ jobs }) => jobs.forEach(hearJob),
  });

/** Begins a full backup of each of several sessions. */
export const useBackUpMany = () =>
  useMutation({
    mutationFn: (sessionIds: string[]) => answer(api.POST("/api/backups/many", { body: { sessionIds } })),
    onSuccess: ({ jobs }) => jobs.forEach(hearJob),
  });

/** Plans for many sessions at once, a plan for each. */
export const usePlanMany = () =>
  useMutation({ mutationFn: (body: ManyAsked) => answer(api.POST("/api/many/plans", { body })) });

/** Applies plans of many sessions. */
export const useApplyMany = () =>
  useMutation({
    mutationFn: (planIds: string[]) => answer(api.POST("/api/many/apply", { body: { planIds } })),
    onSuccess: (begun) => {
      for (const { job } of begun) if (job) hearJob(job);
    },
  });

/** Saves what plans of many sessions did, file by file, as a table. There are more of them than fit in an address. */
export const useSaveManyReport = () =>
  useMutation({
    mutationFn: (planIds: string[]) => answer(api.POST("/api/many/report.csv", { body: { planIds }, parseAs: "blob" })),
    onSuccess: (table) => {
      const link = document.createElement("a");
      link.href = URL.createObjectURL(table as unknown as Blob);
      link.download = "many sessions.csv";
      link.click();
      URL.revokeObjectURL(link.href);
    },
  });

/** Something was kept, or backed up: what is told of that is asked anew, and nothing of the files, which may just be moving. */
export function hearBackups(id: string) {
  for (const queryKey of [keys.sessions, keys.session(id)])
    void queryClient.invalidateQueries({ queryKey, exact: true });
  void queryClient.invalidateQueries({ queryKey: [...keys.session(id), "backups"] });
  void queryClient.invalidateQueries({ queryKey: keys.shelves, predicate: ({ queryKey }) => queryKey[2] === "loss" });
}

/** Asks a job to stop; it takes back what it did. */
export const useCancelJob = () =>
  useMutation({
    mutationFn: (id: string) => answer(api.POST("/api/jobs/{id}/cancel", { params: { path: { id } } })),
  });

/** What is looked for in the catalogue; what is undefined does not matter. */
export interface CatalogueSearch {
  text: string;
  shelfId: string | undefined;
  kind: MediaKind | undefined;
  container: string | undefined;
  sampleRate: number | undefined;
  minSeconds: number | undefined;
  maxSeconds: number | undefined;
}

/** A search for everything. */
export const everything: CatalogueSearch = {
  text: "",
  shelfId: undefined,
  kind: undefined,
  container: undefined,
  sampleRate: undefined,
  minSeconds: undefined,
  maxSeconds: undefined,
};

/** Where a file is used, in all known sessions and all their versions. */
export const useFileUses = (sessionId: string, file: FileEntry, enabled: boolean) =>
  useQuery({
    queryKey: [...keys.session(sessionId), "uses", file.id],
    enabled,
    queryFn: () =>
      answer(
        api.GET("/api/sessions/{id}/files/{fileId}/uses", { params: { path: { id: sessionId, fileId: file.id } } }),
      ),
  });

/** Both identities of a file of a session; nothing while something records. */
export const useIdentities = (sessionId: string, file: FileEntry, enabled: boolean) =>
  useQuery({
    queryKey: ["identities", sessionId, file.id, file.changed],
    enabled,
    staleTime: Number.POSITIVE_INFINITY,
    refetchInterval: ({ state }) => (state.data === null ? 5_000 : false),
    queryFn: async () =>
      (await answer(
        api.GET("/api/sessions/{id}/files/{fileId}/identities", {
          params: { path: { id: sessionId, fileId: file.id } },
        }),
      )) ?? null,
  });
