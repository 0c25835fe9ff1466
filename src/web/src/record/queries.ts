import { useMutation, useQuery } from "@tanstack/react-query";
import { answer, api } from "../api/client";
import { hearRecording, keys } from "../api/queries";
import type { RecordChoice, Recording } from "../api/types";

export const useRecord = (id: string, armed: number) =>
  useQuery({
    queryKey: [...keys.record(id), armed],
    queryFn: () => answer(api.GET("/api/sessions/{id}/record", { params: { path: { id }, query: { armed } } })),
    placeholderData: (previous) => previous,
  });

/** Works the recorder; each answer is the new state. */
export function useRecorder(id: string) {
  const onSuccess = (recording: Recording) => hearRecording(recording);
  const params = { path: { id } };
  return {
    start: useMutation({
      mutationFn: (body: RecordChoice) => answer(api.POST("/api/sessions/{id}/record/start", { params, body })),
      onSuccess,
    }),
    stop: useMutation({
      mutationFn: () => answer(api.POST("/api/sessions/{id}/record/stop", { params })),
      onSuccess,
    }),
    cutPower: useMutation({
      mutationFn: () => answer(api.POST("/api/sessions/{id}/record/cut-power", { params })),
      onSuccess,
    }),
  };
}
