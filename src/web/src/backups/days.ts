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

/** The hours of the day that are shown, and how many lie between two lines. */
export interface HourSpan {
  from: number;
  to: number;
  step: number;
}

const leastHours = 4;

/** The hours in which work was saved, on any day: what nobody worked takes no room. */
export function spanOf(versions: readonly Version[]): HourSpan {
  const shares = versions.map(shareOfDay);
  let from = versions.length > 0 ? Math.floor(24 * least(shares)) : 0;
  let to = versions.length > 0 ? Math.min(24, Math.floor(24 * most(shares)) + 1) : 24;
  const hours = Math.max(leastHours, to - from);
  const step = hours <= 6 ? 1 : hours <= 12 ? 2 : hours <= 18 ? 3 : 6;
  // Lines stand at hours that the step counts, and the span ends at one.
  from = Math.floor(from / step) * step;
  to = Math.max(Math.ceil(to / step) * step, from + leastHours);
  if (to > 24) [from, to] = [Math.max(0, from - (to - 24)), 24];
  return { from, to, step };
}

const linesAtMost = 8;

/** The same for a day that is looked at by itself: as near as a quarter of an hour between two lines. */
export function spanOfDay(versions: readonly Version[]): HourSpan {
  const shares = versions.map(shareOfDay);
  const [first, last] = versions.length > 0 ? [24 * least(shares), 24 * most(shares)] : [0, 24];
  const step = [0.25, 0.5, 1, 2, 3].find((s) => Math.floor(last / s) + 1 - Math.floor(first / s) <= linesAtMost) ?? 6;
  return { from: Math.floor(first / step) * step, to: Math.min(24, (Math.floor(last / step) + 1) * step), step };
}

/** An hour of the day as 20:15. */
export const hourText = (hour: number) => `${Math.floor(hour)}:${String(Math.round((hour % 1) * 60)).padStart(2, "0")}`;

// There may be more of them than a call takes.
const least = (values: readonly number[]) => values.reduce((a, b) => Math.min(a, b));
const most = (values: readonly number[]) => values.reduce((a, b) => Math.max(a, b));

/** Where in the span a version is, from 0 to 1. */
export const shareOfSpan = (version: Version, { from, to }: HourSpan) =>
  (24 * shareOfDay(version) - from) / (to - from);

/** Versions by day, the newest day first, in each the earliest first. */
export function byDay(versions: readonly Version[]): LogDay[] {
  const days = new Map<string, Version[]>();
  for (const version of versions) {
    const date = dateOf(version);
    const own = days.get(date);
    if (own) own.push(version);
    else days.set(date, [version]);
  }
  return [...days.entries()]
    .sort(([one], [other]) => (one < other ? 1 : -1))
    .map(([date, own]) => ({ date, versions: own.sort((a, b) => shareOfDay(a) - shareOfDay(b)) }));
}

const daysOfAPage = 7;

/**
 * The version to which a key leads: left and right in time, up and down to the day above or below, nearest in the hour; Home and End within
 * the day, by pages a week at a time.
 * @param days As they are shown, the newest first.
 * @param at Key of the version that has the keyboard.
 * @returns Its key; null where the key leads nowhere.
 */
export function ledTo(days: readonly LogDay[], at: string, key: string): string | null {
  const day = days.findIndex((d) => d.versions.some((v) => v.key === at));
  const own = days[day]?.versions ?? [];
  const n = own.findIndex((v) => v.key === at);
  const from = own[n];
  if (!from) return null;
  const nearestIn = (index: number) => {
    const other = days[Math.max(0, Math.min(days.length - 1, index))];
    if (!other || other === days[day]) return null;
    const far = (v: Version) => Math.abs(shareOfDay(v) - shareOfDay(from));
    return other.versions.reduce((best, v) => (far(v) < far(best) ? v : best)).key;
  };
  switch (key) {
    case "ArrowLeft":
      return (own[n - 1] ?? days[day + 1]?.versions.at(-1))?.key ?? null;
    case "ArrowRight":
      return (own[n + 1] ?? days[day - 1]?.versions[0])?.key ?? null;
    case "ArrowUp":
      return nearestIn(day - 1);
    case "ArrowDown":
      return nearestIn(day + 1);
    case "PageUp":
      return nearestIn(day - daysOfAPage);
    case "PageDown":
      return nearestIn(day + daysOfAPage);
    case "Home":
      return own[0]?.key ?? null;
    case "End":
      return own.at(-1)?.key ?? null;
    default:
      return null;
  }
}
