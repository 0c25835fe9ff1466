import type { Version } from "../api/types";
import { type HourSpan, shareOfSpan } from "./days";

/** A mark has so much room of its own, in pixels, so that it can be hit (WCAG 2.2, 2.5.8: 24 px, or that far apart). */
export const markRoom = 24;

/** Marks that lie closer than they can be hit stand in rows below each other. */
export interface Fanned {
  /** The row of each version, by its key; the first is 0. */
  rowOf: ReadonlyMap<string, number>;
  rows: number;
}

/**
 * Puts the marks of a day into rows, so that no two of a row lie closer than they can be hit.
 * @param versions In the order of their time.
 * @param width Of all hours, in pixels.
 */
export function fan(versions: readonly Version[], span: HourSpan, width: number): Fanned {
  const ends: number[] = [];
  const rowOf = new Map<string, number>();
  for (const version of versions) {
    const at = shareOfSpan(version, span) * width;
    const free = ends.findIndex((end) => at >= end);
    const row = free < 0 ? ends.length : free;
    ends[row] = at + markRoom;
    rowOf.set(version.key, row);
  }
  return { rowOf, rows: Math.max(1, ends.length) };
}

/** A month of the log: how much was saved in it. */
export interface LogMonth {
  /** As 2026-10. */
  month: string;
  saves: number;
}

/** The months from the first save to the last, those without any among them. */
export function monthsOf(dates: readonly { date: string; saves: number }[]): LogMonth[] {
  const counts = new Map<string, number>();
  for (const { date, saves } of dates) {
    const month = date.slice(0, 7);
    counts.set(month, (counts.get(month) ?? 0) + saves);
  }
  const known = [...counts.keys()].sort();
  const [first, last] = [known[0], known.at(-1)];
  if (first === undefined || last === undefined) return [];
  const months: LogMonth[] = [];
  for (let [year, month] = numbersOf(first); ; month++) {
    if (month > 12) [year, month] = [year + 1, 1];
    const name = `${year}-${String(month).padStart(2, "0")}`;
    months.push({ month: name, saves: counts.get(name) ?? 0 });
    if (name === last) return months;
  }
}

const numbersOf = (month: string): [number, number] => [Number(month.slice(0, 4)), Number(month.slice(5))];

const mostBar = 10;

/** How high a change is drawn, in pixels: one clip can be seen, and hundreds do not burst the line. */
export const barOf = (clips: number) => (clips === 0 ? 0 : Math.min(mostBar, Math.round(3 + 2 * Math.log2(clips))));
