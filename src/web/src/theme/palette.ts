/** The two rooms that the interface is made for: paper by day, a dim room by night. */
export interface Palette {
  paper: string;
  sheet: string;
  raised: string;
  ink: string;
  quiet: string;
  faint: string;
  line: string;
  /** Borders of fields and buttons: 3 : 1 against all that they stand on (WCAG 1.4.11). */
  edge: string;
  /** The ring around what has the keyboard. */
  ring: string;
  rope: string;
  ropeText: string;
  inside: string;
  idle: string;
  outside: string;
  away: string;
  missing: string;
  bounce: string;
  chosen: string;
}

export const day: Palette = {
  paper: "#efe8da",
  sheet: "#f9f5ec",
  raised: "#fffdf7",
  ink: "#2a2520",
  quiet: "#5f564a",
  faint: "#6f6558",
  line: "#d6cab4",
  edge: "#8d8069",
  ring: "#1d4f7a",
  rope: "#97391f",
  ropeText: "#fff8ee",
  inside: "#4f6b3c",
  idle: "#8b9a74",
  outside: "#b3741b",
  away: "#54708c",
  missing: "#8d2347",
  bounce: "#6b5b8c",
  chosen: "#f1e2c6",
};

export const night: Palette = {
  paper: "#171411",
  sheet: "#1f1b17",
  raised: "#29241f",
  ink: "#ece3d4",
  quiet: "#b5a894",
  faint: "#a09482",
  line: "#3d352c",
  edge: "#83755f",
  ring: "#8fc1ec",
  rope: "#d9774f",
  ropeText: "#1d120c",
  inside: "#8fae74",
  idle: "#5d6d4b",
  outside: "#dfa245",
  away: "#86a6c4",
  missing: "#e0739a",
  bounce: "#a796cf",
  chosen: "#3a3023",
};
