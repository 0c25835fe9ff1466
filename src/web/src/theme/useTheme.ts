import { useEffect, useSyncExternalStore } from "react";
import { create } from "zustand";
import { day, night, type Palette } from "./palette";

export type Room = "day" | "night" | "system";

const remembered = "neat-crate-theme";
const dark = window.matchMedia("(prefers-color-scheme: dark)");

const useChoice = create<{ choice: Room; choose: (choice: Room) => void }>((set) => ({
  choice: (localStorage.getItem(remembered) as Room | null) ?? "system",
  choose: (choice) => {
    localStorage.setItem(remembered, choice);
    set({ choice });
  },
}));

/** The room to draw in: the user's choice, or what the system says until there is one. */
export function useTheme(): {
  isNight: boolean;
  palette: Palette;
  choice: Room;
  choose: (choice: Room) => void;
  toggle: () => void;
} {
  const { choice, choose } = useChoice();
  const systemDark = useSyncExternalStore(
    (changed) => {
      dark.addEventListener("change", changed);
      return () => dark.removeEventListener("change", changed);
    },
    () => dark.matches,
  );
  const isNight = choice === "system" ? systemDark : choice === "night";
  const palette = isNight ? night : day;
  useEffect(() => {
    const root = document.documentElement;
    root.dataset.room = isNight ? "night" : "day";
    root.style.colorScheme = isNight ? "dark" : "light";
    for (const [name, value] of Object.entries(palette)) {
      root.style.setProperty(`--${name}`, value);
    }
  }, [isNight, palette]);
  return { isNight, palette, choice, choose, toggle: () => choose(isNight ? "day" : "night") };
}
