import type { ClipDifference, Version } from "../api/types";
import { position } from "../words";

const dayAndHour = new Intl.DateTimeFormat("en-GB", {
  weekday: "short",
  day: "numeric",
  month: "short",
  hour: "2-digit",
  minute: "2-digit",
});

/** When a version is from: Mon 19 Oct, 20:44. */
export const savedAt = (version: Version) => dayAndHour.format(new Date(version.saved));

/** What a version is, in one line, for whoever cannot see its mark. */
export const versionLabel = (version: Version) =>
  [
    version.kind === "Full" ? `Full backup in ${version.vault}` : "Kept save",
    savedAt(version),
    version.note,
    version.isCurrent ? "as it is now" : null,
    version.isAway ? "its drive is away" : null,
  ]
    .filter(Boolean)
    .join(", ");

const at = (seconds: number | null) => (seconds === null ? "" : ` at ${position(seconds)}`);

/** What became of a clip. */
export function clipWords(clip: ClipDifference): string {
  const name = `“${clip.name || "a clip without a name"}”`;
  switch (clip.change) {
    case "Added":
      return `${name} added${at(clip.after)}`;
    case "Gone":
      return `${name} gone, was${at(clip.before) || " there"}`;
    case "Moved":
      return clip.otherTrack === null
        ? `${name} moved from ${position(clip.before ?? 0)} to ${position(clip.after ?? 0)}`
        : `${name} moved here from “${clip.otherTrack}”${at(clip.after)}`;
    default:
      return `${name} changed${at(clip.after)}`;
  }
}

/** The shape of what became of something: told by it first, by colour second. */
export const changeMark = { Added: "+", Gone: "−", Moved: "→", Changed: "≠" } as const;
