import { answer, api } from "../api/client";
import type { CatalogueFile, FileEntry, LostDetails, Match, SoundFacts } from "../api/types";

const catalogueMark = "catalogue-";
const foundMark = "found-";
const lostMark = "lost-";

const isFound = (file: FileEntry) => file.id.startsWith(foundMark);

/** True for a missing file, of which an outline may be kept. */
export const isLost = (file: FileEntry) => file.id.startsWith(lostMark);

/** What all files have that are no files of a session's own list. */
export const apart = {
  use: "Stray" as const,
  placedTimes: 0,
  namedTimes: 0,
  remarks: [],
  take: null,
  growing: false,
  leftOut: false,
  problem: null,
  remarked: null,
};

/** What may be a missing file, as lists and players take files. */
export const ofMatch = (match: Match): FileEntry => ({
  ...apart,
  id: `${foundMark}${match.id}`,
  ...ofFacts(match.facts),
  standing: match.isInside ? "Inside" : match.isThere ? "Outside" : "Away",
  shelfName: match.shelfName,
  belongsInside: match.isInside,
  used: [],
});

/** A missing file as it was, as far as that is known. */
export const ofLost = (lost: LostDetails): FileEntry => ({
  ...apart,
  id: `${lostMark}${lost.lost.id}`,
  ...ofFacts(lost.facts),
  standing: "Missing",
  shelfName: lost.lost.shelfName,
  belongsInside: false,
  used: lost.used.map(({ start, end }) => ({
    start: Math.round(start * (lost.facts.sampleRate ?? 0)),
    length: Math.round((end - start) * (lost.facts.sampleRate ?? 0)),
  })),
});

const ofFacts = (facts: SoundFacts) => ({
  name: facts.name,
  shownPath: facts.place.path,
  bytes: facts.bytes ?? 0,
  changed: facts.changed,
  container: facts.container,
  sampleRate: facts.sampleRate,
  bitDepth: facts.bitDepth,
  channels: facts.channels,
  lengthSamples: facts.lengthSamples,
  seconds: facts.seconds,
});

/** True for a file that is looked at in the catalogue, not in a session. */
export const isOfCatalogue = (file: FileEntry) => file.id.startsWith(catalogueMark);

/** True for a file that the session at hand knows by its identity: neither of the catalogue nor of what is compared at Relink. */
export const isOfSession = (file: FileEntry) =>
  ![catalogueMark, foundMark, lostMark].some((mark) => file.id.startsWith(mark));

/** The identity of such a file in the catalogue. */
export const catalogueId = (id: string) => Number(id.slice(catalogueMark.length));

/** A file of the catalogue as lists and players take files. */
export const ofCatalogue = (file: CatalogueFile): FileEntry => ({
  ...apart,
  id: `${catalogueMark}${file.id}`,
  name: file.name,
  shownPath: file.path,
  standing: file.inside ? "Inside" : file.connected ? "Outside" : "Away",
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
});

/** Where the sound of a file is heard. */
export function audioUrl(sessionId: string, file: FileEntry): string {
  const of = isOfCatalogue(file)
    ? `/api/catalogue/${catalogueId(file.id)}`
    : isFound(file)
      ? `/api/sessions/${sessionId}/relink/found/${file.id.slice(foundMark.length)}`
      : isLost(file)
        ? `/api/sessions/${sessionId}/relink/lost/${file.id.slice(lostMark.length)}`
        : `/api/sessions/${sessionId}/files/${file.id}`;
  return `${of}/audio?${new URLSearchParams({ state: file.changed ?? "" })}`;
}

/** The outline of a file as it comes: least and greatest sample in turn; nothing while something records. */
export function getPeaks(sessionId: string, file: FileEntry, stretches: number, signal: AbortSignal): Promise<unknown> {
  const query = { stretches };
  const as = { parseAs: "arrayBuffer", signal } as const;
  if (isOfCatalogue(file)) {
    const path = { fileId: catalogueId(file.id) };
    return answer(api.GET("/api/catalogue/{fileId}/peaks", { params: { path, query }, ...as }));
  }
  if (isFound(file)) {
    const path = { id: sessionId, foundId: file.id.slice(foundMark.length) };
    return answer(api.GET("/api/sessions/{id}/relink/found/{foundId}/peaks", { params: { path, query }, ...as }));
  }
  if (isLost(file)) {
    const path = { id: sessionId, lostId: file.id.slice(lostMark.length) };
    return answer(api.GET("/api/sessions/{id}/relink/lost/{lostId}/peaks", { params: { path, query }, ...as }));
  }
  const path = { id: sessionId, fileId: file.id };
  return answer(api.GET("/api/sessions/{id}/files/{fileId}/peaks", { params: { path, query }, ...as }));
}
