import { useEffect, useSyncExternalStore } from "react";
import { create } from "zustand";
import { day, night, type Palette } from "./palette";

type Choice = "day" | "night" | "system";

const remembered = "neat-crate-theme";
const dark = window.matchMedia("(prefers-color-scheme: dark)");

const useChoice = create<{ choice: Choice; choose: (choice: Choice) => void }>((set) => ({
  choice: (localStorage.getItem(remembered) as Choice | null) ?? "system",
  choose: (choice) => {
    localStorage.setItem(remembered, choice);
    set({ choice });
  },
}));

/** The room to draw in: the user's choice, or what the system says until there is one. */
export function useTheme(): { isNight: boolean; palette: Palette; toggle: () => void } {
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
  return { isNight, palette, toggle: () => choose(isNight ? "day" : "night") };
}
