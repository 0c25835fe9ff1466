import { answer, api } from "../api/client";
import { type Part, useParts } from "../api/parts";
import { keys } from "../api/queries";
import type { FileEntry, FileGroup, FileGrouping, PurgeFile, PurgeGroup, PurgeOrder } from "../api/types";
import { bytes, type Column, coverage, type ListKind, name, seconds } from "../files/columns";
import type { FileRows } from "../files/useFiles";
import { useDraft, useRemembered } from "../frame/kept";
import { useSessionId } from "../frame/sessionContext";
import { shortWhen } from "../words";
import css from "./purge.module.css";
import type { Counting } from "./queries";
import { groupWords, month } from "./words";

/** A file that could go as a row of the one list. */
export interface PurgeRow extends FileEntry {
  purge: PurgeFile;
}

export const purgeOf = (file: FileEntry) => (file as PurgeRow).purge;

/** The reasons of a file in a line: what protects it first. */
export function reasonsOf(file: PurgeFile): string {
  const words = file.reasons.toSorted((a, b) => Number(b.protects) - Number(a.protects)).map((r) => r.text);
  if (file.alsoIn.length > 0) words.push(`also in ${file.alsoIn.map((s) => `“${s}”`).join(", ")}, for itself`);
  if (file.keptBeside) words.push(`“${file.keptBeside}” is kept`);
  return words.join("; ") || (file.group ? groupWords[file.group].about : "");
}

const orders: Readonly<Record<string, PurgeOrder>> = {
  why: "Group",
  name: "Name",
  bytes: "Bytes",
  seconds: "Length",
  changed: "Changed",
};

const why: Column = {
  key: "why",
  width: "minmax(150px, 1.6fr)",
  title: "Why",
  cell: (f) => (
    <span className={purgeOf(f).isOnlyByName ? css.byName : purgeOf(f).group === null ? css.stays : ""}>
      {reasonsOf(purgeOf(f))}
    </span>
  ),
  hint: (f) => reasonsOf(purgeOf(f)),
};

const changed: Column = {
  key: "changed",
  width: "102px",
  givesWay: true,
  title: "Changed",
  cell: (f) => (f.changed ? shortWhen(f.changed) : ""),
};

const purgeList: ListKind = {
  name: "purge",
  of: "All",
  first: { column: "why", down: false },
  columns: [name, why, { ...coverage, givesWay: true }, changed, seconds, bytes],
  groupings: [
    { key: "Track", label: "by track" },
    { key: "Pass", label: "by pass" },
  ],
  isAlwaysGrouped: true,
};

interface PurgePart extends Part<FileEntry> {
  files: readonly PurgeRow[];
  groups: readonly FileGroup[];
}

/** What stands together in the list, in words. */
export const titleOf = ({ group, part }: { group: PurgeGroup | null; part: string | null }) =>
  group === null
    ? "Stays"
    : part === null
      ? groupWords[group].title
      : `${groupWords[group].title}: ${group === "Bounces" ? month(part) : part}`;

interface Choice {
  counting: Counting;
  /** Only this group. */
  group: PurgeGroup | null;
  onGroup: (group: PurgeGroup | null) => void;
  /** Also what may not go. */
  everything: boolean;
  all: number;
}

/** What could go, as the one list takes it: narrowed and sorted by the server, and asked for as it comes into sight. */
export function usePurgeRows({ counting, group, onGroup, everything, all }: Choice): FileRows {
  const id = useSessionId();
  const [text, setText] = useDraft("filter purge", "");
  const [sort, setSort] = useRemembered("sort purge", purgeList.first);
  const [grouping, setGrouping] = useRemembered<FileGrouping>("group purge", "Track");
  const words = text.trim();
  const query = {
    ...counting,
    everything,
    order: orders[sort.column] ?? ("Group" as const),
    descending: sort.down,
    byPass: grouping === "Pass",
    ...(group && { group }),
    ...(words && { text: words }),
  };
  const path = { id };
  const parts = useParts<PurgePart, FileEntry>([...keys.files(id), "purge list", query], async (skip, take, signal) => {
    const part = await answer(
      api.GET("/api/sessions/{id}/purge/files", { params: { path, query: { ...query, skip, take } }, signal }),
    );
    return {
      total: part.total,
      groups: part.runs.map((r) => ({ title: titleOf(r), files: r.files, bytes: r.bytes })),
      files: part.files.map((purge) => ({ ...purge.file, purge })),
    };
  });
  return {
    ...parts,
    kind: purgeList,
    all,
    groups: parts.first?.groups ?? [],
    sort,
    onSort: setSort,
    isSortable: (column) => column.key in orders,
    narrowing: JSON.stringify([words, group, everything, grouping]),
    tools: {
      text,
      onText: setText,
      grouping,
      onGrouping: setGrouping,
      only: group ? [groupWords[group].title.toLowerCase()] : [],
      onEverything: () => {
        setText("");
        onGroup(null);
      },
    },
    ids: (first, last) =>
      answer(
        api.GET("/api/sessions/{id}/purge/files/ids", {
          params: { path, query: { ...query, skip: first, take: last - first + 1 } },
        }),
      ),
    positionOf: async (fileId) =>
      (
        await answer(
          api.GET("/api/sessions/{id}/purge/files/{fileId}/position", { params: { path: { id, fileId }, query } }),
        )
      ).index,
  };
}
