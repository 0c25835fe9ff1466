import type { LoggedTake } from "../api/types";
import filesCss from "../files/files.module.css";
import { CoverageStrip } from "../listening/CoverageStrip";
import { decibels, soundLength } from "../words";
import css from "./take-log.module.css";
import type { WishedTake } from "./takeChanges";
import { useLevel } from "./useLevel";

interface Props {
  take: LoggedTake;
  wished: WishedTake;
  isActive: boolean;
  isSelected: boolean;
  isPlaying: boolean;
  onChoose: (e: { ctrlKey: boolean; metaKey: boolean; shiftKey: boolean }) => void;
}

/** A take in the log: number, length, how loud, whether it is kept, where it is placed, and the note on it. */
export function TakeCell({ take, wished, isActive, isSelected, isPlaying, onChoose }: Props) {
  const { file } = take;
  const level = useLevel(file);
  const { isKeeper, note, placed, isChanged } = wished;
  const title = file.take?.number ? `take ${file.take.number}` : file.name;
  const loud = level && (level.isClipped ? `clipped, ${decibels(level.decibels)}` : decibels(level.decibels));
  const length = file.seconds === null ? null : soundLength(file.seconds);
  const state = file.growing ? "growing" : file.take?.needsRepair ? "cut off" : null;
  return (
    <button
      type="button"
      tabIndex={-1}
      id={`take-${file.id}`}
      className={`${css.takeCell} ${isActive ? css.active : ""} ${isSelected ? css.selected : ""} ${isPlaying ? css.playing : ""} ${isChanged ? css.changed : ""}`}
      aria-pressed={isActive || isSelected}
      title={note || file.name}
      onClick={onChoose}
    >
      <span className={css.takeLine}>
        <strong>{title}</strong>
        <span className="mono quiet">{length}</span>
        {state && <em className={filesCss.odd}>{state}</em>}
        {isKeeper && <span className={css.keeper}>keep</span>}
      </span>
      <CoverageStrip file={file} />
      <span className={`${css.takeLine} ${css.small}`}>
        <span className={`mono ${level?.isClipped ? "trouble" : "quiet"}`}>{loud ?? ""}</span>
        {placed && <span className={css.placed}>{placed}</span>}
      </span>
      {note && <span className={css.takeNote}>{note}</span>}
      {isChanged && <span className="unseen">not applied yet</span>}
    </button>
  );
}
