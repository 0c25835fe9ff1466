import type { FoundSession } from "../api/types";
import { count, number, size } from "../words";

/** Which of the found folders are shown. */
export type Which = "all" | "new" | "lacking" | "others";

export const whichWord: Readonly<Record<Which, string>> = {
  all: "All",
  new: "new",
  lacking: "lack files",
  others: "copies and others",
};

/** One that nobody knows yet, and that is no copy of another: it is ticked until somebody says otherwise. */
export const isNew = ({ as }: FoundSession) => as === "Session";

/** What is known already is not adopted again; what cannot be looked at is not either. */
export const isAdoptable = ({ as }: FoundSession) => as !== "Known" && as !== "Unreadable";

const isIn: Readonly<Record<Which, (f: FoundSession) => boolean>> = {
  all: () => true,
  new: isNew,
  lacking: (f) => isNew(f) && (f.attention === "Silent" || f.attention === "Unreadable"),
  others: (f) => !isNew(f),
};

/** How many there are of each, of those of which there is any. */
export const whichOf = (found: readonly FoundSession[]): readonly { which: Which; folders: number }[] =>
  (Object.keys(isIn) as Which[])
    .map((which) => ({ which, folders: found.filter(isIn[which]).length }))
    .filter((w) => w.which === "all" || w.folders > 0);

/** Those that are asked for: by a kind, and by words that all stand in their path or documents. */
export function narrowed(found: readonly FoundSession[], which: Which, text: string) {
  const words = text.trim().toLowerCase().split(/\s+/).filter(Boolean);
  return found.filter(
    (f) => isIn[which](f) && words.every((w) => `${f.path} ${f.documents.join(" ")}`.toLowerCase().includes(w)),
  );
}

/** What was ticked and unticked by hand, beside what is proposed. */
export interface Ticks {
  on: ReadonlySet<string>;
  off: ReadonlySet<string>;
}

export const noTicks: Ticks = { on: new Set(), off: new Set() };

export const isTicked = (f: FoundSession, ticks: Ticks) =>
  isAdoptable(f) && (isNew(f) ? !ticks.off.has(f.path) : ticks.on.has(f.path));

/** The ticks after some folders were ticked, or unticked. */
export function ticked(ticks: Ticks, folders: readonly FoundSession[], on: boolean): Ticks {
  const [adds, takes] = [new Set(ticks.on), new Set(ticks.off)];
  for (const { path } of folders.filter(isAdoptable)) {
    if (on) {
      adds.add(path);
      takes.delete(path);
    } else {
      adds.delete(path);
      takes.add(path);
    }
  }
  return { on: adds, off: takes };
}

/** What it is, where it is no new session. */
export function whatItIs({ as, of }: FoundSession): string | null {
  switch (as) {
    case "Session":
    case "Unreadable":
      return null;
    case "Known":
      return "known already";
    case "Copy":
      return `a copy of ${of}`;
    case "UnpackedBundle":
      return `an unpacked bundle, “${of}”`;
    case "Backup":
      return `in “${of}”, where backups are kept`;
    case "Cache":
      return `in “${of}”, where a program keeps what it can make again`;
  }
}

/** All that was found in one line. */
export function foundWords(found: readonly FoundSession[]): string {
  const [fresh, known] = [found.filter(isNew), found.filter((f) => f.as === "Known").length];
  const lacking = found.filter(isIn.lacking).length;
  const others = found.length - fresh.length - known;
  return `${[
    fresh.length === 0
      ? "No new session"
      : `${count(fresh.length, "new session")}, ${size(fresh.reduce((sum, f) => sum + f.bytes, 0))}`,
    lacking > 0 && `${number(lacking)} of them ${lacking === 1 ? "lacks" : "lack"} files`,
    known > 0 && `${number(known)} known already`,
    others > 0 && `${number(others)} ${others === 1 ? "is a copy" : "are copies"} or the like`,
  ]
    .filter(Boolean)
    .join("; ")}.`;
}
