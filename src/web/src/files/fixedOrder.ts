import type { Part, Parts } from "../api/parts";
import type { FileEntry } from "../api/types";
import type { ListKind } from "./columns";
import type { FileRows } from "./useFiles";

/** Rows of a list that the server gives in one order, neither grouped nor narrowed. */
export const inFixedOrder = <P extends Part<FileEntry>>(parts: Parts<P, FileEntry>, kind: ListKind): FileRows => ({
  ...parts,
  kind,
  all: parts.total,
  groups: [],
  sort: kind.first,
  onSort: () => undefined,
  isSortable: () => false,
  narrowing: "",
  ids: async (first, last) => {
    const files = await Promise.all(Array.from({ length: last - first + 1 }, (_, n) => parts.load(first + n)));
    return files.flatMap((f) => (f ? [f.id] : []));
  },
  positionOf: async (fileId) => {
    const at = parts.loaded.findIndex((f) => f.id === fileId);
    return at < 0 ? null : at;
  },
});
