import { useMutation, useQueries, useQuery, useQueryClient } from "@tanstack/react-query";
import { answer, api } from "../api/client";
import { hearJob, keys } from "../api/queries";
import type { BackupChoice, SaveChange, Version } from "../api/types";

const backupsKey = (id: string) => [...keys.session(id), "backups"] as const;

/** All about the backups of a session. */
export const useBackups = (id: string) =>
  useQuery({
    queryKey: backupsKey(id),
    placeholderData: (previous) => previous,
    refetchInterval: 30_000,
    queryFn: () => answer(api.GET("/api/sessions/{id}/backups", { params: { path: { id } } })),
  });

/** What differs between two versions; without the second one, between the first and the document as it is now. */
export const useComparison = (id: string, one: string | undefined, other: string | undefined, saved: string | null) =>
  useQuery({
    queryKey: [...backupsKey(id), "compare", one, other, other ? null : saved],
    enabled: one !== undefined,
    queryFn: () => compare(id, one, other),
  });

/** So many are told in one answer. */
const changesOfAPage = 100;

/** What each save changed, by its key; of the newest first, as many as are in sight. It never changes, and each page is asked for once. */
export function useSaveChanges(
  id: string,
  versions: readonly Version[],
  needed: number,
): ReadonlyMap<string, SaveChange> {
  const saves = versions.filter((v) => v.kind === "Document").toReversed();
  const firstPage = Math.floor(Math.max(0, saves.length - needed) / changesOfAPage);
  const pages = Array.from({ length: Math.ceil(saves.length / changesOfAPage) - firstPage }, (_, n) =>
    saves.slice((firstPage + n) * changesOfAPage, (firstPage + n + 1) * changesOfAPage),
  );
  return useQueries({
    queries: pages.map((page) => {
      const from = page[0]?.key ?? "";
      return {
        queryKey: ["save changes", id, from, page.at(-1)?.key],
        staleTime: Number.POSITIVE_INFINITY,
        queryFn: () =>
          answer(
            api.GET("/api/sessions/{id}/versions/changes", {
              params: { path: { id }, query: { from, take: changesOfAPage } },
            }),
          ),
      };
    }),
    combine: allChanges,
  });
}

const allChanges = (answers: readonly { data: readonly SaveChange[] | undefined }[]): ReadonlyMap<string, SaveChange> =>
  new Map(answers.flatMap((a) => a.data ?? []).map((c) => [c.key, c]));

/** In what two kept versions differ, in a sentence: that never changes, and is asked once for all. */
export const useComparedFor = (id: string, one: string | undefined, other: string | undefined) =>
  useQuery({
    queryKey: ["compared", id, one, other],
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: Number.POSITIVE_INFINITY,
    enabled: one !== undefined && other !== undefined,
    queryFn: async () => (await compare(id, one, other)).sentence,
  });

const compare = (id: string, one: string | undefined, other: string | undefined) =>
  answer(
    api.GET("/api/sessions/{id}/versions/compare", {
      params: { path: { id }, query: { ...(one && { one }), ...(other && { other }) } },
    }),
  );

/** What a version holds. */
export const useVersion = (id: string, version: string | undefined) =>
  useQuery({
    queryKey: [...backupsKey(id), "content", version],
    enabled: version !== undefined,
    queryFn: () =>
      answer(
        api.GET("/api/sessions/{id}/versions/content", {
          params: { path: { id }, query: { version: version ?? "" } },
        }),
      ),
  });

/** When a file was last used, and last there. */
export const useFileHistory = (id: string, fileId: string | undefined) =>
  useQuery({
    queryKey: [...backupsKey(id), "history", fileId],
    enabled: fileId !== undefined,
    queryFn: () =>
      answer(api.GET("/api/sessions/{id}/versions/files/{fileId}", { params: { path: { id, fileId: fileId ?? "" } } })),
  });

/** Files that any version plays or holds, by parts of their names; also those that the session does not know any more. */
export const useFilesOfVersions = (id: string, name: string) =>
  useQuery({
    queryKey: [...backupsKey(id), "named", name],
    enabled: name !== "",
    placeholderData: (previous) => previous,
    queryFn: () => answer(api.GET("/api/sessions/{id}/versions/files", { params: { path: { id }, query: { name } } })),
  });

/** What thinning out would do: of the kept states where no vault is given. */
export const useThinning = (id: string, vaultId: string | null) =>
  useQuery({
    queryKey: [...backupsKey(id), "thinning", vaultId],
    queryFn: () =>
      answer(
        vaultId
          ? api.GET("/api/sessions/{id}/backups/thinning/{vaultId}", { params: { path: { id, vaultId } } })
          : api.GET("/api/sessions/{id}/backups/thinning", { params: { path: { id } } }),
      ),
  });

const standardKey = ["standard backups"] as const;

/** How every session is backed up for which nothing else was chosen. */
export const useStandardBackups = () =>
  useQuery({ queryKey: standardKey, queryFn: () => answer(api.GET("/api/backups/standard")) });

export function useChooseStandardBackups() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: BackupChoice) => answer(api.PUT("/api/backups/standard", { body })),
    onSuccess: () => {
      // What a session was asked for before it may hold the other rules.
      void client.invalidateQueries({ queryKey: keys.sessions });
      return client.invalidateQueries({ queryKey: standardKey });
    },
  });
}

/** What is done about backups at once, without a plan: nothing of the session is changed by any of it. */
export function useBackupWork(id: string) {
  const client = useQueryClient();
  const again = () => client.invalidateQueries({ queryKey: keys.session(id) });
  const params = { path: { id } };
  return {
    keep: useMutation({
      mutationFn: (note: string) => answer(api.POST("/api/sessions/{id}/backups/keep", { params, body: { note } })),
      onSuccess: again,
    }),
    full: useMutation({
      mutationFn: (body: { vaultId: string; note: string; byContent: boolean }) =>
        answer(api.POST("/api/sessions/{id}/backups/full", { params, body })),
      onSuccess: hearJob,
    }),
    say: useMutation({
      mutationFn: (body: { version: string; note: string }) =>
        answer(api.PUT("/api/sessions/{id}/versions/note", { params, body })),
      onSuccess: again,
    }),
    choose: useMutation({
      mutationFn: (body: BackupChoice) => answer(api.PUT("/api/sessions/{id}/backups/choice", { params, body })),
      onSuccess: again,
    }),
    check: useMutation({
      mutationFn: (vaultId: string) =>
        answer(api.POST("/api/vaults/{vaultId}/check", { params: { path: { vaultId } } })),
      onSuccess: hearJob,
    }),
    changeVault: useMutation({
      mutationFn: ({ vaultId, ...body }: { vaultId: string; isAwayFromHouse: boolean }) =>
        answer(api.PUT("/api/vaults/{vaultId}", { params: { path: { vaultId } }, body })),
      onSuccess: again,
    }),
    thin: useMutation({
      mutationFn: ({ vaultId, keys: going }: { vaultId: string; keys: string[] }) =>
        answer(
          api.POST("/api/sessions/{id}/backups/thinning/{vaultId}", {
            params: { path: { id, vaultId } },
            body: { keys: going },
          }),
        ),
      onSuccess: hearJob,
    }),
  };
}
