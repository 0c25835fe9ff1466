import { memo } from "react";
import type { SaveChange, Version } from "../api/types";
import { number } from "../words";
import css from "./backups.module.css";
import { barOf } from "./fanned";
import { versionLabel } from "./words";

interface Props {
  version: Version;
  /** What it changed against the one before it, where that is known. */
  change: SaveChange | undefined;
  isChosen: boolean;
  isReached: boolean;
  /** Where in the hours that are shown, from 0 to 1. */
  share: number;
  /** In which row of its day. */
  row: number;
  /** Pixels to the next mark of its row, for what is written beside it. */
  room: number;
  /** True for one of so many that they are drawn as a band. */
  isThin: boolean;
}

/** So much room a note beside a mark takes at the least, and so much of it the marks themselves, in pixels. */
const leastRoom = 56;

const besideMarks = 20;

/** A save or a backup, with a bar up for the clips that came and one down for those that went: a loss is a notch, and is told in figures. */
export const LogbookMark = memo(function LogbookMark(props: Props) {
  const { version, change, isChosen, isReached, share, row, room, isThin } = props;
  const kind = version.kind === "Full" ? css.tall : css.small;
  const [came, went] = [change?.came ?? 0, change?.went ?? 0];
  const label = [versionLabel(version), change?.sentence].filter(Boolean).join(": ");
  return (
    <span className={css.markPlace} style={{ left: `${share * 100}%`, top: `calc(${row} * var(--log-row))` }}>
      <button
        type="button"
        data-version={version.key}
        className={`${css.mark} ${kind} ${isThin ? css.thin : ""} ${isChosen ? css.isChosen : ""} ${version.isAway ? css.isAway : ""} ${version.note ? css.hasNote : ""}`}
        aria-pressed={isChosen}
        aria-label={label}
        title={label}
        tabIndex={isReached ? 0 : -1}
      />
      {came > 0 && <i className={css.came} style={{ height: barOf(came) }} />}
      {went > 0 && <i className={css.went} style={{ height: barOf(went) }} />}
      {went > 0 && <span className={css.markLost} aria-hidden="true">{`−${number(went)}`}</span>}
      {version.note && !isThin && room >= leastRoom && (
        <span className={css.markTold} style={{ maxWidth: room - besideMarks }} aria-hidden="true">
          {version.note}
        </span>
      )}
    </span>
  );
});
