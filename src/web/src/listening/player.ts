import { create } from "zustand";
import type { FileEntry } from "../api/types";
import { keep, remembered } from "../frame/kept";
import { audioUrl } from "./mediaSource";

/** What is being listened to. */
interface Player {
  fileId: string | null;
  /** The file, and the session at hand when it was begun. */
  file: FileEntry | null;
  sessionId: string;
  /** From 0 to 1. */
  volume: number;
  /** Whether it begins anew at its end. */
  loops: boolean;
  /** Whether whoever moves in a list while something plays hears what they come to. */
  follows: boolean;
  playing: boolean;
  /** Where it is, in seconds. */
  at: number;
  /** Why it cannot be heard. */
  error: string | null;
  play: (sessionId: string, file: FileEntry) => void;
  toggle: (sessionId: string, file: FileEntry) => void;
  seek: (sessionId: string, file: FileEntry, seconds: number) => void;
  stop: () => void;
  setVolume: (volume: number) => void;
  setLoops: (loops: boolean) => void;
  setFollows: (follows: boolean) => void;
}

const standard = { volume: 1, loops: false, follows: true };

const settings = () => {
  const kept = remembered("listening", standard);
  return { ...kept, volume: Math.min(1, Math.max(0, Number(kept.volume) || 0)) };
};

const remember = ({ volume, loops, follows }: typeof standard) => keep("listening", { volume, loops, follows });

/** One sound at a time, whoever asks. */
const sound = new Audio();
sound.preload = "auto";

export const usePlayer = create<Player>((set, get) => {
  sound.addEventListener("timeupdate", () => set({ at: sound.currentTime }));
  sound.addEventListener("play", () => set({ playing: true, error: null }));
  sound.addEventListener("pause", () => set({ playing: false }));
  sound.addEventListener("ended", () => set({ playing: false, at: 0 }));
  sound.addEventListener("error", () => {
    if (get().fileId) set({ playing: false, error: "This file cannot be heard: its sound could not be read." });
  });

  const load = (sessionId: string, file: FileEntry) => {
    if (get().fileId === file.id) return;
    sound.src = audioUrl(sessionId, file);
    set({ fileId: file.id, file, sessionId, at: 0, error: null });
  };
  const start = () =>
    void sound.play().catch((error: DOMException) => {
      // Whoever asks for another sound before this one has begun ends it; that is no error.
      if (error.name !== "AbortError") set({ playing: false, error: `The browser does not play it: ${error.message}` });
    });
  const { volume, loops, follows } = settings();
  sound.volume = volume;
  sound.loop = loops;
  return {
    fileId: null,
    file: null,
    sessionId: "",
    volume,
    loops,
    follows,
    playing: false,
    at: 0,
    error: null,
    play: (sessionId, file) => {
      load(sessionId, file);
      start();
    },
    toggle: (sessionId, file) => {
      if (get().fileId === file.id && get().playing) {
        sound.pause();
      } else {
        load(sessionId, file);
        start();
      }
    },
    seek: (sessionId, file, seconds) => {
      load(sessionId, file);
      sound.currentTime = seconds;
      set({ at: seconds });
    },
    stop: () => {
      sound.pause();
      sound.removeAttribute("src");
      set({ fileId: null, file: null, playing: false, at: 0, error: null });
    },
    setVolume: (volume) => {
      sound.volume = volume;
      set({ volume });
      remember(get());
    },
    setLoops: (loops) => {
      sound.loop = loops;
      set({ loops });
      remember(get());
    },
    setFollows: (follows) => {
      set({ follows });
      remember(get());
    },
  };
});
