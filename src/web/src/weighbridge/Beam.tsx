import type { Weight } from "../api/types";
import { size } from "../words";
import { nameOf } from "./segments";
import { wordsOf } from "./Weighbridge";
import css from "./weighbridge.module.css";

interface BeamProps {
  weights: readonly Weight[];
  /** Bytes of other files. */
  otherBytes: number;
  /** So many bytes fill the whole beam. */
  most: number;
}

/** A beam that is filled as far as it is loaded: two of them can be compared by eye. */
export function Beam({ weights, otherBytes, most }: BeamProps) {
  const wide = (bytes: number) => ({ flex: "none", width: `${(100 * bytes) / most}%`, minWidth: 0 });
  const words = weights.map(wordsOf);
  if (otherBytes > 0) words.push(`other files: ${size(otherBytes)}`);
  return (
    <div className={css.beam} role="img" aria-label={words.join("; ")}>
      {weights.map((w) => (
        <span
          key={nameOf(w)}
          className={css.load}
          data-standing={w.standing}
          data-use={w.use}
          style={wide(w.bytes)}
          title={wordsOf(w)}
        />
      ))}
      <span
        className={`${css.load} ${css.other}`}
        style={wide(otherBytes)}
        title={`other files: ${size(otherBytes)}`}
      />
    </div>
  );
}
