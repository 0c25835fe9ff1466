import { useDeferredValue, useState } from "react";
import { answer, api } from "../api/client";
import { type Part, type Parts, useParts } from "../api/parts";
import { keys } from "../api/queries";
import type { operations } from "../api/schema.gen";
import type { FileEntry, FileGroup, FileGrouping, FilesPart, MarkFor } from "../api/types";
import { useDraft, useRemembered } from "../frame/kept";
import { useSessionId } from "../frame/sessionContext";
import { nameOf, type Segment } from "../weighbridge/segments";
import type { Column, ListKind, Sort } from "./columns";

type FilesQuery = NonNullable<operations["ListFiles"]["parameters"]["query"]>;

/** A list of files as the one list shows it, wherever they come from. */
export interface FileRows extends Parts<Part<FileEntry>, FileEntry> {
  kind: ListKind;
  /** How many files there are, whatever the list is narrowed to. */
  all: number;
  groups: readonly FileGroup[];
  sort: Sort;
  onSort: (sort: Sort) => void;
  isSortable: (column: Column) => boolean;
  /** What the list is narrowed to: another one means that other files are in it. */
  narrowing: string;
  /** Words and groups by which the list is narrowed and parted; without it the list has a search of its own. */
  tools?: {
    text: string;
    onText: (text: string) => void;
    grouping: FileGrouping;
    onGrouping: (grouping: FileGrouping) => void;
    /** What alone is shown, in words; nothing where everything is. */
    only: readonly string[];
    onEverything: () => void;
  };
  /** Identities of the files between two places, both counted. */
  ids: (first: number, last: number) => Promise<readonly string[]>;
  /** The place of a file in the list; null where it is not in it. */
  positionOf: (id: string) => Promise<number | null>;
}

export interface SessionFiles extends FileRows {
  /** How many of the files can be marked, and how many of these are, where the server keeps that. */
  markable: number;
  marked: number;
  /** Identities of all files of the list that can be marked. */
  markableIds: () => Promise<readonly string[]>;
  segments: readonly Segment[];
  setSegments: (segments: readonly Segment[]) => void;
  active: string | null;
  setActive: (id: string | null) => void;
}

interface Choice {
  kind: ListKind;
  /** Only files that come from this place. */
  place?: string | null;
  leavePlace?: () => void;
  marks?: MarkFor;
}

/** The files of the session at hand: narrowed, sorted and grouped by the server, and asked for as they come into sight. */
export function useFiles({ kind, place = null, leavePlace, marks = "Nothing" }: Choice): SessionFiles {
  const id = useSessionId();
  const [segments, setSegments] = useDraft<readonly Segment[]>("segments", []);
  const [active, setActive] = useState<string | null>(null);
  const [text, setText] = useDraft(`filter ${kind.name}`, "");
  const [sort, setSort] = useRemembered(`sort ${kind.name}`, kind.first);
  const [grouping, setGrouping] = useRemembered<FileGrouping>(`groups ${kind.name}`, "None");
  const words = useDeferredValue(text.trim());
  const query: FilesQuery = {
    of: kind.of,
    order: kind.columns.find((c) => c.key === sort.column)?.fileOrder ?? "Standing",
    descending: sort.down,
    grouping,
    marks,
    ...(words && { text: words }),
    ...(segments.length > 0 && { segment: segments.map((s) => `${s.standing}.${s.use}`) }),
    ...(place !== null && { place }),
  };
  const params = { path: { id }, query };
  const parts = useParts<FilesPart, FileEntry>([...keys.files(id), "list", query], (skip, take, signal) =>
    answer(api.GET("/api/sessions/{id}/files", { params: { ...params, query: { ...query, skip, take } }, signal })),
  );
  return {
    ...parts,
    kind,
    all: parts.first?.all ?? 0,
    groups: parts.first?.groups ?? [],
    sort,
    onSort: setSort,
    isSortable: (column) => column.fileOrder !== undefined,
    tools: {
      text,
      onText: setText,
      grouping,
      onGrouping: setGrouping,
      only: [...segments.map(nameOf), ...(place === null ? [] : ["from one place"])],
      onEverything: () => {
        setSegments([]);
        setText("");
        leavePlace?.();
      },
    },
    markable: parts.first?.markable ?? 0,
    marked: parts.first?.marked ?? 0,
    ids: (first, last) =>
      answer(
        api.GET("/api/sessions/{id}/files/ids", {
          params: { path: { id }, query: { ...query, marks: "Nothing", skip: first, take: last - first + 1 } },
        }),
      ),
    markableIds: () => answer(api.GET("/api/sessions/{id}/files/ids", { params })),
    positionOf: async (fileId) =>
      (await answer(api.GET("/api/sessions/{id}/files/{fileId}/position", { params: { path: { id, fileId }, query } })))
        .index,
    segments,
    setSegments,
    narrowing: JSON.stringify([words, segments, place]),
    active,
    setActive,
  };
}
