import { useMutation, useQuery } from "@tanstack/react-query";
import { answer, api } from "../api/client";
import { hearJob, keys } from "../api/queries";

const pollEvery = 1500;

/** The sessions that were found on a shelf; asked for again and again while somebody looks for them. */
export const useFoundSessions = (shelfId: string, isLooking: boolean) =>
  useQuery({
    queryKey: keys.found(shelfId),
    staleTime: 0,
    refetchInterval: isLooking ? pollEvery : false,
    queryFn: () => answer(api.GET("/api/adopt/found/{shelfId}", { params: { path: { shelfId } } })),
  });

/** Begins to look for sessions on a shelf. */
export const useFindSessions = (shelfId: string) =>
  useMutation({
    mutationFn: () => answer(api.POST("/api/adopt/found/{shelfId}", { params: { path: { shelfId } } })),
    onSuccess: hearJob,
  });

/** Begins to adopt folders of a shelf. */
export const useAdoptMany = (shelfId: string) =>
  useMutation({
    mutationFn: (paths: string[]) => answer(api.POST("/api/adopt/many", { body: { shelfId, paths } })),
    onSuccess: hearJob,
  });
