import type { EvidenceKind, LostEntry, Match, RelinkWay, SoundFacts, Verdict, Whereabouts } from "../api/types";
import { number, rate, size, soundLength, when } from "../words";

/** What happened to missing files, in the order in which the list shows them. */
export const whereaboutsWords: readonly (readonly [Whereabouts, string])[] = [
  ["WrittenOtherwise", "the same place, written otherwise"],
  ["Moved", "moved to another folder"],
  ["Renamed", "renamed in its folder"],
  ["MovedAndRenamed", "moved and renamed"],
  ["Kept", "kept in a backup or a bundle"],
  ["AnotherVersion", "another version of it is there"],
  ["Away", "found on a drive that is away"],
  ["NoTrace", "no trace"],
];

export const wayWord: Record<RelinkWay, string> = {
  CopyIn: "copy in",
  Repoint: "use where it is",
  PutBack: "put it back where it was",
};

export const wayHint: Record<RelinkWay, string> = {
  CopyIn: "A copy in the session folder; the document is re-pointed to it.",
  Repoint: "The file stays where it is; the document is re-pointed to it.",
  PutBack: "A copy in the place where the document expects it; no document is touched.",
};

const evidenceWord: Record<EvidenceKind, string> = {
  Bytes: "All bytes",
  Sound: "Sound",
  Samples: "Samples",
  Name: "Name",
  Folder: "Folder",
  Size: "Size",
  Length: "Length",
  Rate: "Sample rate",
  Channels: "Channels",
  Depth: "Bit depth",
  Format: "File format",
  Changed: "Changed",
  Origin: "Origin",
  TimeReference: "Time reference",
  Age: "There when it was saved",
};

export const verdictWord: Record<Verdict, string> = {
  Agrees: "agrees",
  Nearly: "nearly",
  Differs: "differs",
  Unknown: "not known",
};

const certaintyWords: Record<Match["certainty"], string> = {
  None: "to compare",
  SameBytes: "certain: the same bytes",
  SameSound: "certain: the same sound",
  SameSamples: "certain: the same samples",
  SameSilence: "certain: the same silence, by name",
  OnlyOneThatFits: "certain: the only file that fits",
  MovedTogether: "certain: it fits, and moved with its neighbours",
};

const isOtherSound = (match: Match) => match.evidence.some((e) => e.kind === "Samples" && e.verdict === "Differs");

/** The same in a word or two, for a row. */
export const shortCertaintyOf = (match: Match) =>
  isOtherSound(match)
    ? "another sound"
    : match.certainty !== "None"
      ? "certain"
      : match.worthReading
        ? "not read yet"
        : "to compare";

const formatKinds: readonly EvidenceKind[] = ["Length", "Rate", "Channels", "Depth", "Format"];

/** In what a file of another sound differs beside that. */
const differing = (match: Match) => {
  const kinds = match.evidence.filter((e) => e.verdict === "Differs" && formatKinds.includes(e.kind));
  return kinds.length > 0 ? `; it differs in ${kinds.map((e) => evidenceWord[e.kind].toLowerCase()).join(", ")}` : "";
};

/** How sure a match is, in words. */
export const certaintyOf = (match: Match) =>
  isOtherSound(match)
    ? `another sound${differing(match)}`
    : match.certainty === "None" && match.alsoWantedBy.length > 0
      ? `to compare: ${match.alsoWantedBy.slice(0, 3).join(", ")} ${match.alsoWantedBy.length === 1 ? "is" : "are"} missing as well, and may be this file`
      : match.certainty === "None" && match.worthReading
        ? "to compare: not read yet"
        : certaintyWords[match.certainty];

const folderOf = (facts: SoundFacts) => {
  const { shelf, path } = facts.place;
  const folder = path.slice(0, Math.max(0, path.lastIndexOf("/")));
  return shelf ? `${shelf}: ${folder || "/"}` : folder;
};

const figureOf: Partial<Record<EvidenceKind, (facts: SoundFacts) => string | null>> = {
  Name: (f) => f.name,
  Folder: folderOf,
  Size: (f) => (f.bytes === null ? null : size(f.bytes)),
  Length: (f) =>
    f.lengthSamples !== null
      ? `${soundLength(f.seconds ?? 0)} · ${number(f.lengthSamples)} samples`
      : f.seconds === null
        ? null
        : soundLength(f.seconds),
  Rate: (f) => (f.sampleRate === null ? null : rate(f.sampleRate)),
  Channels: (f) => (f.channels === null ? null : number(f.channels)),
  Depth: (f) => (f.bitDepth ? `${f.bitDepth} bit` : null),
  Format: (f) => f.container,
  Changed: (f) => (f.changed === null ? null : when(f.changed)),
  Origin: (f) => f.origin,
  TimeReference: (f) => (f.timeReference === null ? null : `${number(Number(f.timeReference))} samples`),
};

/** A line of the comparison: what of, the missing file's, how they compare, the found one's. */
export interface Line {
  kind: EvidenceKind;
  title: string;
  verdict: Verdict;
  lost: string | null;
  found: string | null;
}

/** The comparison line by line. What is known of neither is left out, but for the sound itself: that nobody knows it has to be seen. */
export const linesOf = (lost: SoundFacts, match: Match): Line[] =>
  match.evidence
    .map(({ kind, verdict }) => ({
      kind,
      title: evidenceWord[kind],
      verdict,
      lost: figureOf[kind]?.(lost) ?? null,
      found: kind === "Folder" && match.keptIn ? match.keptIn : (figureOf[kind]?.(match.facts) ?? null),
    }))
    .filter((l) => l.lost !== null || l.found !== null || l.verdict !== "Unknown" || l.kind === "Sound");

/** Why a missing file does not ask any more. */
export const markWord = (lost: LostEntry) =>
  lost.mark === "Gone" ? "given up" : lost.mark === "Skipped" ? "later" : null;
