import type { Version } from "../api/types";

/** The versions of one day, the newest day first. */
export interface LogDay {
  /** Local date, as 2026-10-19. */
  date: string;
  versions: readonly Version[];
}

/** Local date of a version; its time is local already. */
const dateOf = (version: Version) => {
  const saved = new Date(version.saved);
  const two = (n: number) => String(n).padStart(2, "0");
  return `${saved.getFullYear()}-${two(saved.getMonth() + 1)}-${two(saved.getDate())}`;
};

/** The share of its day that had passed, from 0 to 1. */
export function shareOfDay(version: Version): number {
  const saved = new Date(version.saved);
  return (saved.getHours() * 3600 + saved.getMinutes() * 60 + saved.getSeconds()) / 86_400;
}

/** Versions by day, the newest day first, in each the earliest first. */
export function byDay(versions: readonly Version[]): LogDay[] {
  const days = new Map<string, Version[]>();
  for (const version of versions) {
    const date = dateOf(version);
    days.set(date, [...(days.get(date) ?? []), version]);
  }
  return [...days.entries()]
    .sort(([one], [other]) => (one < other ? 1 : -1))
    .map(([date, own]) => ({ date, versions: own.sort((a, b) => shareOfDay(a) - shareOfDay(b)) }));
}
