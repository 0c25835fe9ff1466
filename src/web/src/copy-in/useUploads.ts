import { create } from "zustand";
import type { Upload } from "../api/types";

/** A file on its way from the user's computer, or arrived. */
export interface Arriving {
  key: number;
  name: string;
  bytes: number;
  /** Bytes that are over. */
  sent: number;
  /** What arrived; null until all of it has. */
  upload: Upload | null;
  error: string | null;
  stop: () => void;
}

let lastKey = 0;

/** What arrives, by session: it goes on arriving whatever page one is on. */
const useArriving = create<Readonly<Record<string, readonly Arriving[]>>>(() => ({}));

const none: readonly Arriving[] = [];

/** Sends files to the server, three at a time by the browser's own measure, and tells how far each is. */
export function useUploads(sessionId: string) {
  const arriving = useArriving((all) => all[sessionId] ?? none);
  const setArriving = (next: (all: readonly Arriving[]) => readonly Arriving[]) =>
    useArriving.setState((all) => ({ [sessionId]: next(all[sessionId] ?? none) }));
  const change = (key: number, part: Partial<Arriving>) =>
    setArriving((all) => all.map((a) => (a.key === key ? { ...a, ...part } : a)));

  const send = (file: File) => {
    const key = ++lastKey;
    const request = new XMLHttpRequest();
    const fail = (error: string) => change(key, { error });
    request.upload.addEventListener("progress", (e) => change(key, { sent: e.loaded }));
    request.addEventListener("load", () => {
      const body: unknown = request.response;
      if (request.status === 200) change(key, { upload: body as Upload, sent: file.size });
      else fail((body as { title?: string } | null)?.title ?? `The server answered ${request.status}.`);
    });
    request.addEventListener("error", () => fail("It did not arrive. Is Neat Crate still running? Drop it once more."));
    request.open("POST", `/api/sessions/${sessionId}/import/uploads?${new URLSearchParams({ name: file.name })}`);
    request.responseType = "json";
    request.setRequestHeader("X-Neat-Crate", "1");
    request.setRequestHeader("Content-Type", "application/octet-stream");
    setArriving((all) => [
      ...all,
      { key, name: file.name, bytes: file.size, sent: 0, upload: null, error: null, stop: () => request.abort() },
    ]);
    request.send(file);
  };
  return {
    arriving,
    add: (files: Iterable<File>) => {
      for (const file of files) send(file);
    },
    remove: (key: number) => {
      arriving.find((a) => a.key === key)?.stop();
      setArriving((all) => all.filter((a) => a.key !== key));
    },
    clear: () => setArriving(() => none),
  };
}
