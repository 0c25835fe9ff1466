import { answer, api } from "../api/client";
import { type Part, useParts } from "../api/parts";
import { type CatalogueSearch, keys } from "../api/queries";
import type { operations } from "../api/schema.gen";
import type { FileEntry } from "../api/types";
import { catalogueList, type Sort } from "../files/columns";
import type { FileRows } from "../files/useFiles";
import { ofCatalogue } from "../listening/mediaSource";

type CatalogueQuery = NonNullable<operations["SearchCatalogue"]["parameters"]["query"]>;

/** Files of the catalogue as a session sees them. There may be any number: only those in sight are asked for. */
export function useCatalogueFiles(
  sessionId: string,
  search: CatalogueSearch,
  sort: Sort,
  onSort: (sort: Sort) => void,
): FileRows {
  const order = catalogueList.columns.find((c) => c.key === sort.column)?.catalogueOrder ?? "Name";
  const query = Object.fromEntries(
    Object.entries({ sessionId, ...search, order, descending: sort.down }).filter(
      ([, v]) => v !== undefined && v !== "",
    ),
  ) as CatalogueQuery;
  const parts = useParts<Part<FileEntry>, FileEntry>([...keys.catalogue, "list", query], async (skip, take, signal) => {
    const found = await answer(api.GET("/api/catalogue", { params: { query: { ...query, skip, take } }, signal }));
    return { total: found.total, files: found.files.map(ofCatalogue) };
  });
  return {
    ...parts,
    kind: catalogueList,
    all: parts.total,
    groups: [],
    narrowing: JSON.stringify(search),
    sort,
    onSort,
    isSortable: (column) => column.catalogueOrder !== undefined,
    // What is chosen at once are rows that came into sight.
    ids: async (first, last) =>
      Array.from({ length: last - first + 1 }, (_, n) => parts.at(first + n)?.id).filter((id) => id !== undefined),
    positionOf: async (id) => Array.from({ length: parts.total }).findIndex((_, n) => parts.at(n)?.id === id),
  };
}
