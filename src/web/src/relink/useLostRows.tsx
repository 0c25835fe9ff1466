import { useMemo, useState } from "react";
import type { FileEntry, LostEntry, RelinkInfo } from "../api/types";
import type { ListKind } from "../files/columns";
import { StandingMark } from "../files/StandingMark";
import type { FileRows } from "../files/useFiles";
import { useDraft } from "../frame/kept";
import { apart } from "../listening/mediaSource";
import { placeText, soundLength, textOfUse } from "../words";
import css from "./relink.module.css";
import { markWord, shortCertaintyOf, whereaboutsWords } from "./words";

/** A missing file as a row of the one list. */
export interface LostRow extends FileEntry {
  lost: LostEntry;
}

const lostOf = (file: FileEntry) => (file as LostRow).lost;

function Found({ lost }: { lost: LostEntry }) {
  const { best } = lost;
  const mark = markWord(lost);
  if (mark) return <span className="quiet">{lost.note ? `${mark}: ${lost.note}` : mark}</span>;
  if (lost.standing === "Away") return <span className="quiet">{`waits for “${lost.shelfName}”`}</span>;
  if (!best) return <span className="quiet">nothing known fits</span>;
  return (
    <span className={css.pair}>
      <span className={best.certainty === "None" ? css.guess : css.sure}>{best.facts.name}</span>
      <small>{best.isThere ? shortCertaintyOf(best) : `on “${best.shelfName}”, which is away`}</small>
    </span>
  );
}

/** Missing files with what may be them, as pairs. */
const lostList: ListKind = {
  name: "lost",
  of: "All",
  first: { column: "name", down: false },
  columns: [
    { key: "standing", width: "24px", title: "", cell: (f) => <StandingMark standing={f.standing} /> },
    {
      key: "name",
      width: "minmax(120px, 1fr)",
      title: "Missing",
      cell: (f) => f.name,
      hint: (f) => placeText(lostOf(f).place),
    },
    {
      key: "found",
      width: "minmax(150px, 1.5fr)",
      title: "Found",
      cell: (f) => <Found lost={lostOf(f)} />,
      hint: (f) => lostOf(f).best?.keptIn ?? lostOf(f).best?.facts.path ?? "",
    },
    {
      key: "on",
      width: "minmax(70px, 0.6fr)",
      title: "On",
      givesWay: true,
      cell: (f) => (lostOf(f).mark === "None" ? (lostOf(f).best?.shelfName ?? "") : ""),
    },
    { key: "use", width: "96px", title: "Use", givesWay: true, cell: (f) => textOfUse(f) },
    {
      key: "seconds",
      width: "58px",
      title: "Length",
      cell: (f) => (f.seconds === null ? "" : soundLength(f.seconds)),
    },
  ],
  groupings: [],
};

const away = "on a drive that is away";
const left = "left as they are";

/** In which group of the list a missing file stands. */
export const groupOf = (lost: LostEntry) =>
  lost.standing === "Away"
    ? away
    : lost.mark !== "None"
      ? left
      : (whereaboutsWords.find(([key]) => key === lost.whereabouts)?.[1] ?? "");

const groupOrder = [...whereaboutsWords.map(([, words]) => words), away, left];

const rowOf = (lost: LostEntry): LostRow => ({
  ...apart,
  id: lost.id,
  name: lost.name,
  shownPath: lost.place.path,
  standing: lost.standing,
  use: lost.use,
  placedTimes: lost.placedTimes,
  namedTimes: lost.namedTimes,
  shelfName: lost.shelfName,
  belongsInside: false,
  bytes: lost.bytes ?? 0,
  changed: null,
  container: null,
  sampleRate: null,
  bitDepth: null,
  channels: null,
  lengthSamples: null,
  seconds: lost.seconds,
  used: [],
  lost,
});

/** The missing files grouped by what happened to them, as the one list takes them. */
export function useLostRows(info: RelinkInfo): FileRows {
  const [text, setText] = useDraft("filter lost", "");
  const [sort, setSort] = useState(lostList.first);
  const { rows, groups } = useMemo(() => {
    const words = text.trim().toLowerCase();
    const shown = info.lost.filter(
      (l) =>
        words === "" || [l.name, l.place.path, l.best?.facts.path ?? ""].some((t) => t.toLowerCase().includes(words)),
    );
    const grouped = new Map<string, LostEntry[]>();
    for (const lost of shown) {
      const group = grouped.get(groupOf(lost));
      if (group) group.push(lost);
      else grouped.set(groupOf(lost), [lost]);
    }
    const inOrder = groupOrder.flatMap((title) => {
      const files = grouped.get(title);
      return files
        ? [{ title, files: files.toSorted((a, b) => (sort.down ? -1 : 1) * a.name.localeCompare(b.name)) }]
        : [];
    });
    return {
      rows: inOrder.flatMap((g) => g.files.map(rowOf)),
      groups: inOrder.map((g) => ({ title: g.title, files: g.files.length, bytes: 0 })),
    };
  }, [info, text, sort]);
  return {
    kind: lostList,
    total: rows.length,
    first: { total: rows.length, files: rows },
    error: null,
    at: (index) => rows[index],
    loaded: rows,
    want: nothing,
    load: async (index) => rows[index],
    all: info.lost.length,
    groups,
    sort,
    onSort: setSort,
    isSortable: (column) => column.key === "name",
    narrowing: text,
    tools: {
      text,
      onText: setText,
      grouping: "None",
      onGrouping: nothing,
      only: [],
      onEverything: () => setText(""),
    },
    ids: async (first, last) => rows.slice(first, last + 1).map((r) => r.id),
    positionOf: async (id) => rows.findIndex((r) => r.id === id),
  };
}

const nothing = () => undefined;
