import { answer, api } from "../api/client";
import type { CatalogueFile, FileEntry } from "../api/types";

const catalogueMark = "catalogue-";

/** True for a file that is looked at in the catalogue, not in a session. */
export const isOfCatalogue = (file: FileEntry) => file.id.startsWith(catalogueMark);

/** The identity of such a file in the catalogue. */
export const catalogueId = (id: string) => Number(id.slice(catalogueMark.length));

/** A file of the catalogue as lists and players take files. */
export const ofCatalogue = (file: CatalogueFile): FileEntry => ({
  id: `${catalogueMark}${file.id}`,
  name: file.name,
  shownPath: file.path,
  standing: file.inside ? "Inside" : file.connected ? "Outside" : "Away",
  use: "Stray",
  placedTimes: 0,
  shelfName: file.shelfName,
  belongsInside: file.inside,
  bytes: file.bytes,
  changed: file.changed,
  container: file.container,
  sampleRate: file.sampleRate,
  bitDepth: file.bitDepth,
  channels: file.channels,
  lengthSamples: file.lengthSamples,
  seconds: file.seconds,
  used: [],
  problem: file.problem,
  remarks: [],
  take: null,
  growing: false,
  leftOut: false,
});

/** Where the sound of a file is heard. */
export function audioUrl(sessionId: string, file: FileEntry): string {
  const of = isOfCatalogue(file)
    ? `/api/catalogue/${catalogueId(file.id)}`
    : `/api/sessions/${sessionId}/files/${file.id}`;
  return `${of}/audio?${new URLSearchParams({ state: file.changed ?? "" })}`;
}

/** The outline of a file as it comes: least and greatest sample in turn; nothing while something records. */
export const getPeaks = (
  sessionId: string,
  file: FileEntry,
  stretches: number,
  signal: AbortSignal,
): Promise<unknown> =>
  isOfCatalogue(file)
    ? answer(
        api.GET("/api/catalogue/{fileId}/peaks", {
          params: { path: { fileId: catalogueId(file.id) }, query: { stretches } },
          parseAs: "arrayBuffer",
          signal,
        }),
      )
    : answer(
        api.GET("/api/sessions/{id}/files/{fileId}/peaks", {
          params: { path: { id: sessionId, fileId: file.id }, query: { stretches } },
          parseAs: "arrayBuffer",
          signal,
        }),
      );
