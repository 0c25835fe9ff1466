import type { DriveLoss, SessionLoss } from "../api/types";
import { count, list, number, size } from "../words";

/** What would be so, were the drive to die: the worst first. */
export function lossWords({ lost, silent, comesBack, onlyOnceThen, sessions, notKnown }: DriveLoss): readonly string[] {
  const playing = sessions.filter((s) => s.silent.files > 0).length;
  return [
    lost.files > 0
      ? `${count(lost.files, "file")}, ${size(lost.bytes)}, ${lost.files === 1 ? "is" : "are"} lost for good.`
      : notKnown.length > 0
        ? "Nothing is lost for good of what can be looked at now."
        : "Nothing that a session uses is lost for good.",
    silent.files > 0 &&
      `${count(playing, "session")} that ${playing === 1 ? "stands" : "stand"} elsewhere ${playing === 1 ? "goes" : "go"} silent in part: ${count(silent.files, "file")}.`,
    comesBack.files > 0 &&
      `${count(comesBack.files, "file")}, ${size(comesBack.bytes)}, ${comesBack.files === 1 ? "comes" : "come"} back from a backup on another drive.`,
    onlyOnceThen.files > 0 &&
      `${count(onlyOnceThen.files, "file")} on other drives ${onlyOnceThen.files === 1 ? "has" : "have"} no second place any more.`,
  ].filter((words) => words !== false);
}

/** The shelves that go along. */
export const besideWords = (beside: readonly string[]) =>
  beside.length === 0
    ? null
    : `${list(beside)} ${beside.length === 1 ? "is" : "are"} on the same drive, and ${beside.length === 1 ? "goes" : "go"} with it.`;

/** What it means for one session, the worst first. */
export function sessionLossWords({ lost, silent, comesBack, onlyOnceThen }: SessionLoss): string {
  return [
    lost.files > 0 && `${number(lost.files)} lost for good, ${size(lost.bytes)}`,
    silent.files > 0 && `${number(silent.files)} ${silent.files === 1 ? "goes" : "go"} silent`,
    comesBack.files > 0 && `${number(comesBack.files)} ${comesBack.files === 1 ? "comes" : "come"} back from a backup`,
    onlyOnceThen.files > 0 && `${number(onlyOnceThen.files)} without a second place`,
  ]
    .filter(Boolean)
    .join("; ");
}

/** What makes it safer: what it plays from there is copied in, what is only there is backed up. */
export function mendedBy({
  lost,
  silent,
  standsOnIt,
  onlyOnceThen,
}: SessionLoss): { station: string; word: string } | null {
  if (!standsOnIt && silent.files > 0) return { station: "copy-in", word: "Copy in" };
  return lost.files > 0 || onlyOnceThen.files > 0 ? { station: "backups", word: "Back up" } : null;
}
