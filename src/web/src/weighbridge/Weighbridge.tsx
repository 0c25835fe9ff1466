import type { Weight } from "../api/types";
import { count, number, size } from "../words";
import { isIn, nameOf, type Segment, toggled } from "./segments";
import css from "./weighbridge.module.css";

interface Props {
  weights: readonly Weight[];
  chosen?: readonly Segment[];
  /** With it, parts can be pressed, several at once; without it the bridge is only looked at. */
  onChoose?: (segments: readonly Segment[]) => void;
}

const none: readonly Segment[] = [];

const weightOf = (w: Weight) =>
  w.notKnown === w.files ? "size not known" : w.notKnown > 0 ? `at least ${size(w.bytes)}` : size(w.bytes);

/** A part of the weighbridge in words. */
export const wordsOf = (w: Weight) => `${nameOf(w)}: ${count(w.files, "file")}, ${weightOf(w)}`;

/** The session's bytes by where files stand and by use. Files that weigh nothing here still get a share that can be seen. */
export function Weighbridge({ weights, chosen = none, onChoose }: Props) {
  const total = weights.reduce((sum, w) => sum + w.bytes, 0);
  const share = (w: Weight) => ({ flexGrow: Math.max(w.bytes / Math.max(total, 1), 0.02) });
  if (!onChoose) {
    return (
      <div className={`${css.weighbridge} ${css.small}`}>
        <div
          className={css.beam}
          role="img"
          aria-label={`Weight by where files stand and by use. ${weights.map(wordsOf).join("; ") || "No media files."}`}
        >
          {weights.map((w) => (
            <span
              key={nameOf(w)}
              className={css.load}
              data-standing={w.standing}
              data-use={w.use}
              style={share(w)}
              title={wordsOf(w)}
            />
          ))}
        </div>
      </div>
    );
  }
  const press = (w: Weight) => onChoose(toggled(chosen, w));
  const isDim = (w: Weight) => chosen.length > 0 && !isIn(chosen, w);
  return (
    <section className={css.weighbridge} aria-label="Weight by where files stand and by use">
      <div className={css.beam}>
        {weights.map((w) => (
          // The figures below are the same for the keyboard.
          <button
            type="button"
            tabIndex={-1}
            key={nameOf(w)}
            className={`${css.load} ${isDim(w) ? css.dim : ""}`}
            data-standing={w.standing}
            data-use={w.use}
            style={share(w)}
            title={wordsOf(w)}
            aria-label={wordsOf(w)}
            aria-pressed={isIn(chosen, w)}
            onClick={() => press(w)}
          />
        ))}
      </div>
      <ul className={css.figures}>
        {weights.map((w) => (
          <li key={nameOf(w)}>
            <button type="button" aria-pressed={isIn(chosen, w)} onClick={() => press(w)}>
              <span
                className={`${css.swatch} ${css.load}`}
                data-standing={w.standing}
                data-use={w.use}
                aria-hidden="true"
              />
              <span className={css.name}>{nameOf(w)}</span>
              <span className={css.figure}>
                {number(w.files)}
                <small>{weightOf(w)}</small>
              </span>
            </button>
          </li>
        ))}
        {weights.length === 0 && <li className="quiet">No media files yet.</li>}
      </ul>
    </section>
  );
}
