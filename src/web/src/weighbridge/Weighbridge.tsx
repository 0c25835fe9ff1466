import type { Standing, Use, Weight } from "../api/types";
import { StandingMark } from "../files/StandingMark";
import { count, size, standingWord, useWord } from "../words";
import "./weighbridge.css";

export interface Segment {
  standing: Standing;
  use: Use;
}

interface Props {
  weights: readonly Weight[];
  chosen?: Segment | null;
  onChoose?: (segment: Segment | null) => void;
}

const same = (a: Segment | null | undefined, b: Segment) => a?.standing === b.standing && a.use === b.use;

/** What is inside is told apart by use; what is elsewhere by where it stands. */
const nameOf = (w: Weight) =>
  w.standing === "Inside"
    ? useWord[w.use]
    : w.use === "Placed"
      ? standingWord[w.standing]
      : `${standingWord[w.standing]}, ${useWord[w.use]}`;

const weightOf = (w: Weight) =>
  w.notKnown === w.files ? "size not known" : w.notKnown > 0 ? `at least ${size(w.bytes)}` : size(w.bytes);

/** The session's bytes by where files stand and by use. Files that weigh nothing here still get a share that can be seen. */
export function Weighbridge({ weights, chosen = null, onChoose }: Props) {
  const total = weights.reduce((sum, w) => sum + w.bytes, 0);
  const share = (w: Weight) => Math.max(w.bytes / Math.max(total, 1), 0.02);
  const small = !onChoose;
  const words = weights.map((w) => `${nameOf(w)}: ${count(w.files, "file")}, ${weightOf(w)}`).join("; ");
  return (
    <div className={`weighbridge ${small ? "small" : ""}`}>
      <div
        className="beam"
        role="img"
        aria-label={`Weight by where files stand and by use. ${words || "No media files."}`}
      >
        {weights.map((w) => (
          <span
            key={w.standing + w.use}
            className={`load ${w.standing} ${w.use} ${chosen && !same(chosen, w) ? "dim" : ""}`}
            style={{ flexGrow: share(w) }}
            title={`${nameOf(w)}: ${count(w.files, "file")}, ${weightOf(w)}`}
          />
        ))}
      </div>
      {onChoose && (
        <ul className="figures">
          {weights.map((w) => (
            <li key={w.standing + w.use}>
              <button
                type="button"
                aria-pressed={same(chosen, w)}
                onClick={() => onChoose(same(chosen, w) ? null : { standing: w.standing, use: w.use })}
              >
                <span className={`key ${w.standing} ${w.use}`}>
                  <StandingMark standing={w.standing} silent />
                </span>
                <span className="name">{nameOf(w)}</span>
                <span className="figure">
                  {w.files}
                  <small>{weightOf(w)}</small>
                </span>
              </button>
            </li>
          ))}
          {weights.length === 0 && <li className="quiet">No media files yet.</li>}
        </ul>
      )}
    </div>
  );
}
