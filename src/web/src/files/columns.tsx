import type { ReactNode } from "react";
import type { CatalogueOrder, FileEntry, FileGrouping, FileOrder, FileSubset } from "../api/types";
import { CoverageStrip } from "../listening/CoverageStrip";
import { position, rate, shortWhen, size, soundLength, standingWord, textOfUse, useWord } from "../words";
import css from "./files.module.css";
import { StandingMark } from "./StandingMark";

export interface Column {
  key: string;
  title: string;
  className?: string | undefined;
  /** Its width as a track of a CSS grid, until somebody draws it wider or narrower. */
  width: string;
  /** True for one that gives way where the list is narrow. */
  givesWay?: boolean;
  cell: (file: FileEntry) => ReactNode;
  hint?: (file: FileEntry) => string;
  /** How the server orders a session's files by it. */
  fileOrder?: FileOrder;
  /** How it orders those of the catalogue. */
  catalogueOrder?: CatalogueOrder;
}

/** What a list is sorted by. */
export interface Sort {
  column: string;
  down: boolean;
}

/** What a list shows of its files, and how they can be grouped. */
export interface ListKind {
  name: "files" | "catalogue" | "takes" | "lost" | "purge" | "held" | "trim" | "safe";
  /** Which files of a session it is of. */
  of: FileSubset;
  columns: readonly Column[];
  groupings: readonly { key: FileGrouping; label: string }[];
  /** True where its files always stand in groups of their own. */
  isAlwaysGrouped?: boolean;
  /** Sorted by this column at first. */
  first: Sort;
}

/** Where a file stands, in the words of the list. */
export const standsOn = (file: FileEntry) => (file.belongsInside ? "this session" : (file.shelfName ?? "no shelf"));

const format = (file: FileEntry) =>
  file.sampleRate
    ? `${rate(file.sampleRate)} ${file.bitDepth || ""} ${file.channels === 1 ? "mono" : file.channels === 2 ? "stereo" : `${file.channels} ch`}`
    : "";

/** The one word that a row needs beside its name, if any. */
function flag(file: FileEntry): { word: string; why: string } | null {
  if (file.growing) return { word: "growing", why: "Something writes this file at this moment." };
  if (file.take?.needsRepair) return { word: "cut off", why: file.remarks.join(" ") };
  if (file.take?.repairedAs)
    return { word: "repaired", why: `It was cut off; ${file.take.repairedAs} is whole. This one is kept as it was.` };
  if (file.problem) return { word: "cannot be read", why: file.problem };
  return file.remarked !== null ? { word: file.remarked, why: file.remarks.join(" ") } : null;
}

export const standing: Column = {
  key: "standing",
  width: "24px",
  fileOrder: "Standing",
  title: "",
  className: css.cStanding,
  cell: (f) => <StandingMark standing={f.standing} isHeld={f.use === "SetAside"} />,
  hint: (f) => (f.use === "SetAside" ? useWord.SetAside : standingWord[f.standing]),
};
export const name: Column = {
  key: "name",
  width: "minmax(140px, 2fr)",
  fileOrder: "Name",
  title: "Name",
  className: css.cName,
  cell: (f) => {
    const odd = flag(f);
    return (
      <>
        {f.name}
        {odd && (
          <em className={`${css.odd} ${f.growing ? css.growing : ""}`} title={odd.why}>
            {odd.word}
          </em>
        )}
      </>
    );
  },
  hint: (f) => f.shownPath,
};
export const coverage: Column = {
  key: "coverage",
  width: "minmax(84px, 0.8fr)",
  fileOrder: "InUse",
  title: "In use",
  cell: (f) => <CoverageStrip file={f} />,
};
const use: Column = {
  key: "use",
  width: "minmax(118px, 0.9fr)",
  fileOrder: "Use",
  title: "Use",
  className: css.cUse,
  cell: (f) => textOfUse(f),
};
export const seconds: Column = {
  key: "seconds",
  width: "58px",
  fileOrder: "Length",
  title: "Length",
  className: css.cNum,
  cell: (f) => (f.seconds === null ? "" : soundLength(f.seconds)),
};
export const bytes: Column = {
  key: "bytes",
  width: "66px",
  fileOrder: "Bytes",
  title: "Size",
  className: css.cNum,
  // Of what is away the catalogue may know it still.
  cell: (f) => (f.changed === null ? "" : size(f.bytes)),
};

export const fileList: ListKind = {
  name: "files",
  of: "All",
  first: { column: "standing", down: false },
  columns: [
    standing,
    name,
    coverage,
    {
      key: "from",
      width: "minmax(84px, 0.7fr)",
      fileOrder: "StandsOn",
      title: "Stands on",
      className: css.cFrom,
      cell: standsOn,
    },
    use,
    seconds,
    {
      key: "format",
      width: "132px",
      givesWay: true,
      fileOrder: "Format",
      title: "Format",
      className: css.cFormat,
      cell: format,
    },
    bytes,
  ],
  groupings: [
    { key: "Standing", label: "by standing" },
    { key: "StandsOn", label: "by shelf" },
  ],
};

const folderOf = (file: FileEntry) => file.shownPath.slice(0, Math.max(0, file.shownPath.lastIndexOf("/")));

const shelfOf = (file: FileEntry) => file.shelfName ?? "";

/** Files of the catalogue. There may be any number of them: the server sorts them. */
export const catalogueList: ListKind = {
  name: "catalogue",
  of: "All",
  first: { column: "name", down: false },
  columns: [
    standing,
    { ...name, catalogueOrder: "Name" },
    { ...coverage, title: "Sound" },
    {
      key: "from",
      width: "minmax(84px, 0.8fr)",
      title: "Shelf",
      className: css.cFrom,
      cell: shelfOf,
      catalogueOrder: "Shelf",
    },
    {
      key: "folder",
      width: "minmax(90px, 1.3fr)",
      title: "Folder",
      className: css.cFolder,
      // The last folder tells most, so that the beginning is what gives way.
      cell: (f) => <bdi>{folderOf(f)}</bdi>,
      hint: folderOf,
      catalogueOrder: "Folder",
    },
    { ...seconds, catalogueOrder: "Length" },
    {
      key: "format",
      width: "132px",
      givesWay: true,
      title: "Format",
      className: css.cFormat,
      cell: format,
      catalogueOrder: "Format",
    },
    { ...bytes, catalogueOrder: "Bytes" },
  ],
  groupings: [],
};

const trackOf = (file: FileEntry) => file.take?.track ?? "no track fits";

export const takeList: ListKind = {
  name: "takes",
  of: "Takes",
  // What was recorded last is what one looks for.
  first: { column: "recorded", down: true },
  columns: [
    name,
    {
      key: "track",
      width: "minmax(84px, 0.8fr)",
      fileOrder: "Track",
      title: "Track",
      className: css.cFrom,
      cell: trackOf,
    },
    {
      key: "take",
      width: "38px",
      fileOrder: "Take",
      title: "Take",
      className: css.cNum,
      cell: (f) => f.take?.number ?? "",
    },
    {
      key: "pass",
      width: "38px",
      fileOrder: "Pass",
      title: "Pass",
      className: css.cNum,
      cell: (f) => f.take?.pass ?? "",
    },
    {
      key: "start",
      width: "62px",
      fileOrder: "Start",
      title: "Starts at",
      className: css.cNum,
      cell: (f) => (f.take?.startSeconds == null ? "" : position(f.take.startSeconds)),
    },
    {
      key: "recorded",
      width: "102px",
      givesWay: true,
      fileOrder: "Changed",
      title: "Recorded",
      className: css.cRecorded,
      cell: (f) => (f.changed ? shortWhen(f.changed) : ""),
    },
    { ...coverage, givesWay: true },
    use,
    seconds,
    bytes,
  ],
  groupings: [
    { key: "Track", label: "by track" },
    { key: "Pass", label: "by pass" },
  ],
};
