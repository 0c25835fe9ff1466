import type { ReactNode } from "react";
import type { CatalogueOrder, FileEntry } from "../api/types";
import { position, rate, shortWhen, size, soundLength, standingWord, textOfUse } from "../words";
import { CoverageStrip } from "./CoverageStrip";
import { StandingMark } from "./StandingMark";

export interface Column {
  key: string;
  title: string;
  className: string;
  /** What the column is sorted by. */
  value: (file: FileEntry) => string | number;
  cell: (file: FileEntry) => ReactNode;
  hint?: (file: FileEntry) => string;
  /** How the server orders files by it, where it holds more of them than a list can sort. */
  order?: CatalogueOrder;
}

export interface Grouping {
  key: string;
  label: string;
  of: (file: FileEntry) => string;
}

/** What a list shows of its files, and how they can be grouped. */
export interface ListKind {
  className: string;
  columns: readonly Column[];
  groupings: readonly Grouping[];
  /** Sorted by this column at first. */
  first: { column: string; down: boolean };
}

/** Where a file stands, in the words of the list. */
export const standsOn = (file: FileEntry) => (file.belongsInside ? "this session" : (file.shelfName ?? "no shelf"));

const format = (file: FileEntry) =>
  file.sampleRate
    ? `${rate(file.sampleRate)} ${file.bitDepth || ""} ${file.channels === 1 ? "mono" : file.channels === 2 ? "stereo" : `${file.channels} ch`}`
    : "";

const standingOrder = { Missing: 0, Away: 1, Outside: 2, Inside: 3 };

/** The one word that a row needs beside its name, if any. */
function flag(file: FileEntry): { word: string; why: string } | null {
  if (file.growing) return { word: "growing", why: "Something writes this file at this moment." };
  if (file.take?.needsRepair) return { word: "cut off", why: file.remarks.join(" ") };
  if (file.take?.repairedAs)
    return { word: "repaired", why: `It was cut off; ${file.take.repairedAs} is whole. This one is kept as it was.` };
  if (file.problem) return { word: "cannot be read", why: file.problem };
  return file.remarks.length > 0 ? { word: "look", why: file.remarks.join(" ") } : null;
}

const standing: Column = {
  key: "standing",
  title: "",
  className: "c-standing",
  value: (f) => standingOrder[f.standing],
  cell: (f) => <StandingMark standing={f.standing} />,
  hint: (f) => standingWord[f.standing],
};
const name: Column = {
  key: "name",
  title: "Name",
  className: "c-name",
  value: (f) => f.name.toLowerCase(),
  cell: (f) => {
    const odd = flag(f);
    return (
      <>
        {f.name}
        {odd && (
          <em className={`odd ${f.growing ? "growing" : ""}`} title={odd.why}>
            {odd.word}
          </em>
        )}
      </>
    );
  },
  hint: (f) => f.shownPath,
};
const coverage: Column = {
  key: "coverage",
  title: "In use",
  className: "c-coverage",
  value: (f) => f.used.reduce((sum, part) => sum + part.length, 0) / (f.lengthSamples || 1),
  cell: (f) => <CoverageStrip file={f} />,
};
const use: Column = {
  key: "use",
  title: "Use",
  className: "c-use",
  value: (f) => textOfUse(f.use, f.placedTimes),
  cell: (f) => textOfUse(f.use, f.placedTimes),
};
const seconds: Column = {
  key: "seconds",
  title: "Length",
  className: "c-num",
  value: (f) => f.seconds ?? -1,
  cell: (f) => (f.seconds === null ? "" : soundLength(f.seconds)),
};
const bytes: Column = {
  key: "bytes",
  title: "Size",
  className: "c-num",
  value: (f) => f.bytes,
  // Of what is away the catalogue may know it still.
  cell: (f) => (f.changed === null ? "" : size(f.bytes)),
};

export const fileList: ListKind = {
  className: "of-files",
  first: { column: "standing", down: false },
  columns: [
    standing,
    name,
    coverage,
    { key: "from", title: "Stands on", className: "c-from", value: (f) => standsOn(f).toLowerCase(), cell: standsOn },
    use,
    seconds,
    { key: "format", title: "Format", className: "c-format", value: format, cell: format },
    bytes,
  ],
  groupings: [
    { key: "standing", label: "by standing", of: (f) => standingWord[f.standing] },
    { key: "from", label: "by shelf", of: standsOn },
  ],
};

const folderOf = (file: FileEntry) => file.shownPath.slice(0, Math.max(0, file.shownPath.lastIndexOf("/")));

const shelfOf = (file: FileEntry) => file.shelfName ?? "";

/** Files of the catalogue. There may be any number of them: the server sorts them. */
export const catalogueList: ListKind = {
  className: "of-catalogue",
  first: { column: "name", down: false },
  columns: [
    standing,
    { ...name, order: "Name" },
    { ...coverage, title: "Sound" },
    { key: "from", title: "Shelf", className: "c-from", value: shelfOf, cell: shelfOf, order: "Shelf" },
    {
      key: "folder",
      title: "Folder",
      className: "c-folder",
      value: folderOf,
      // The last folder tells most, so that the beginning is what gives way.
      cell: (f) => <bdi>{folderOf(f)}</bdi>,
      hint: folderOf,
      order: "Folder",
    },
    { ...seconds, order: "Length" },
    { key: "format", title: "Format", className: "c-format", value: format, cell: format, order: "Format" },
    { ...bytes, order: "Bytes" },
  ],
  groupings: [],
};

const trackOf = (file: FileEntry) => file.take?.track ?? "no track fits";

export const takeList: ListKind = {
  className: "of-takes",
  // What was recorded last is what one looks for.
  first: { column: "recorded", down: true },
  columns: [
    name,
    {
      key: "track",
      title: "Track",
      className: "c-from",
      // Takes of one track follow each other by number.
      value: (f) => `${trackOf(f).toLowerCase()} ${String(f.take?.number ?? 0).padStart(6, "0")}`,
      cell: trackOf,
    },
    {
      key: "take",
      title: "Take",
      className: "c-num",
      value: (f) => f.take?.number ?? -1,
      cell: (f) => f.take?.number ?? "",
    },
    {
      key: "pass",
      title: "Pass",
      className: "c-num",
      value: (f) => f.take?.pass ?? -1,
      cell: (f) => f.take?.pass ?? "",
    },
    {
      key: "start",
      title: "Starts at",
      className: "c-num",
      value: (f) => f.take?.startSeconds ?? Number.NEGATIVE_INFINITY,
      cell: (f) => (f.take?.startSeconds == null ? "" : position(f.take.startSeconds)),
    },
    {
      key: "recorded",
      title: "Recorded",
      className: "c-recorded",
      value: (f) => f.changed ?? "",
      cell: (f) => (f.changed ? shortWhen(f.changed) : ""),
    },
    coverage,
    use,
    seconds,
    bytes,
  ],
  groupings: [
    { key: "track", label: "by track", of: trackOf },
    { key: "pass", label: "by pass", of: (f) => (f.take?.pass ? `pass ${f.take.pass}` : "pass not known") },
  ],
};
