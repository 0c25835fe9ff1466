import type { BackupStatus, Place, Standing, Use } from "./api/types";

const counted = new Intl.NumberFormat("en");

/** A number with thousands apart. */
export const number = (value: number) => counted.format(value);

const units = ["kB", "MB", "GB", "TB"].map((unit, n) => ({
  unit,
  bytes: 1000 ** (n + 1),
  figures: new Intl.NumberFormat("en", {
    minimumFractionDigits: Math.min(n, 2),
    maximumFractionDigits: Math.min(n, 2),
  }),
}));

/**
 * A size in decimal units: kilobytes whole, megabytes to the tenth, more to the hundredth, as 48.1 MB. A unit begins where
 * the one before would be written with four figures.
 */
export function size(bytes: number): string {
  if (bytes < 1000) return `${Math.floor(bytes)} B`;
  for (const [n, { unit, bytes: of, figures }] of units.entries()) {
    const text = figures.format(bytes / of);
    if (n === units.length - 1 || Number.parseFloat(text.replace(",", "")) < 1000) return `${text} ${unit}`;
  }
  return `${bytes} B`;
}

/** A length in time as m:ss, or h:mm:ss from an hour on; to the second, rounded down. */
export function duration(seconds: number): string {
  const whole = Math.max(0, Math.floor(seconds));
  const two = (n: number) => String(n).padStart(2, "0");
  const [h, m, s] = [Math.floor(whole / 3600), Math.floor(whole / 60) % 60, whole % 60];
  return h > 0 ? `${h}:${two(m)}:${two(s)}` : `${m}:${two(s)}`;
}

/** The length of a sound: one-shots differ by hundredths of a second. */
export const soundLength = (seconds: number) =>
  seconds < 9.995 ? `0:${seconds.toFixed(2).padStart(5, "0")}` : duration(seconds);

/** A place on the timeline: 1:05, or -0:10 before its start. */
export const position = (seconds: number) => (seconds < -0.5 ? `-${duration(-seconds)}` : duration(seconds));

/** The same to the tenth, where there is one: 0:13, 0:13.5. */
export function positionToTenths(seconds: number): string {
  const tenths = Math.round(seconds * 10);
  return tenths % 10 === 0 ? position(tenths / 10) : `${position(Math.floor(tenths / 10))}.${tenths % 10}`;
}

/** Reads m:ss, h:mm:ss or plain seconds; null when it is none of these. */
export function parseDuration(text: string): number | null {
  const match = /^\s*(?:(?:(\d{1,2}):)?(\d{1,3}):)?(\d{1,5})\s*$/.exec(text);
  if (!match) return null;
  const [h, m, s] = [Number(match[1] ?? 0), Number(match[2] ?? 0), Number(match[3])];
  return match[2] !== undefined && s > 59 ? null : h * 3600 + m * 60 + s;
}

/** Reads a time of day, 9:05 or 23.30, as 09:05; null when it is none. */
export function parseTimeOfDay(text: string): string | null {
  const match = /^\s*(\d{1,2})[:.](\d{2})\s*$/.exec(text);
  const [h, m] = [Number(match?.[1]), Number(match?.[2])];
  return match && h < 24 && m < 60 ? `${String(h).padStart(2, "0")}:${match[2]}` : null;
}

/** Reads a place on the timeline, m:ss or seconds, with tenths and finer; null when it is none. */
export function parsePosition(text: string): number | null {
  const match = /^\s*(?:(\d{1,3}):)?(\d{1,5}(?:[.,]\d{1,3})?)\s*$/.exec(text);
  if (!match) return null;
  const seconds = Number((match[2] ?? "0").replace(",", "."));
  return match[1] !== undefined && seconds >= 60 ? null : Number(match[1] ?? 0) * 60 + seconds;
}

/** A level below full scale, in dBFS; silence has none. */
export const decibels = (level: number | null) =>
  level === null ? "silent" : `${level.toFixed(1).replace("-", "\u2212")} dBFS`;

/** "1 file", "6 files". */
export const count = (n: number, noun: string) => `${number(n)} ${noun}${n === 1 ? "" : "s"}`;

/** Names in a sentence. */
export const list = (names: readonly string[]) =>
  names.length < 2 ? (names[0] ?? "") : `${names.slice(0, -1).join(", ")} and ${names.at(-1)}`;

/** A sample rate in kHz: 44.1 kHz. */
export const rate = (hz: number) => `${hz / 1000} kHz`;

const stamp = new Intl.DateTimeFormat("en-GB", {
  day: "numeric",
  month: "short",
  year: "numeric",
  hour: "2-digit",
  minute: "2-digit",
});

/** Local date and time. */
export const when = (iso: string) => stamp.format(new Date(iso));

const clock = new Intl.DateTimeFormat("en-GB", { hour: "2-digit", minute: "2-digit", second: "2-digit" });

/** Local time of day, from milliseconds since 1970. */
export const timeOf = (ms: number) => clock.format(new Date(ms));

const shortStamp = new Intl.DateTimeFormat("en-GB", {
  day: "numeric",
  month: "short",
  hour: "2-digit",
  minute: "2-digit",
});

/** Local day and time, for a column. */
export const shortWhen = (iso: string) => shortStamp.format(new Date(iso));

const dayStamp = new Intl.DateTimeFormat("en-GB", { day: "numeric", month: "short", year: "numeric" });

/** A local day. */
export const day = (iso: string) => dayStamp.format(new Date(iso));

/** How long ago something was: just now, 12 min ago, 3 h ago, 2 days ago. */
export function ago(iso: string, now = Date.now()): string {
  const minutes = Math.floor((now - new Date(iso).getTime()) / 60_000);
  if (minutes < 1) return "just now";
  if (minutes < 60) return `${minutes} min ago`;
  return minutes < 48 * 60 ? `${Math.floor(minutes / 60)} h ago` : `${Math.floor(minutes / 1440)} days ago`;
}

/** What worries about a session's backups, or null: files that are nowhere else, or whose copies would die with their drive. */
export const onlyHere = ({ safety, worry }: BackupStatus): string | null => {
  if (!safety) return null;
  if (safety.onlyHere.files > 0) return `${number(safety.onlyHere.files)} only here, ${size(safety.onlyHere.bytes)}`;
  return worry && safety.onOneDrive.files > 0
    ? `${number(safety.onOneDrive.files)} on one drive only, ${size(safety.onOneDrive.bytes)}`
    : null;
};

/** Whether a session is backed up, in a few words. */
export const backedUp = (backup: BackupStatus): string =>
  [onlyHere(backup), backup.secondBehind > 0 && `second place ${number(backup.secondBehind)} behind`]
    .filter(Boolean)
    .join("; ") || (backup.lastFull ? `full ${ago(backup.lastFull)}` : "never backed up");

/** The day of a session as its name gives it: YYMMDD at the start. */
export function dayOf(name: string): { day: string; month: string; year: string; rest: string } | null {
  const match = /^(\d\d)(\d\d)(\d\d)[ _-]+(.*)$/.exec(name);
  if (!match) return null;
  const [, year, month, day, rest] = match;
  const monthName = ["JAN", "FEB", "MAR", "APR", "MAY", "JUN", "JUL", "AUG", "SEP", "OCT", "NOV", "DEC"][
    Number(month) - 1
  ];
  return monthName && Number(day) >= 1 && Number(day) <= 31
    ? { day: day ?? "", month: monthName, year: `20${year}`, rest: rest ?? "" }
    : null;
}

/** A place as shelf and path on it, or the whole path where no shelf holds it. */
export const placeText = (place: Place) => (place.shelf ? `${place.shelf}: ${place.path}` : place.path);

export const standingWord: Record<Standing, string> = {
  Inside: "inside",
  Outside: "outside",
  Away: "away",
  Missing: "missing",
};

export const useWord: Record<Use, string> = {
  Placed: "placed",
  Named: "named",
  OlderOnly: "older versions only",
  Listed: "listed, not placed",
  Stray: "stray",
  NamedNowhere: "named nowhere",
  Bounce: "bounce",
  Unknown: "use not known",
  SetAside: "set aside",
};

/** What a file's use is called in a row. */
export const textOfUse = (file: { use: Use; placedTimes: number; namedTimes: number }) => {
  const times = file.use === "Placed" ? file.placedTimes : file.use === "Named" ? file.namedTimes : 1;
  return times > 1 ? `${useWord[file.use]} ${times}×` : useWord[file.use];
};
