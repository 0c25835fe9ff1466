import type { Scale } from "../api/types";
import { Beam } from "../weighbridge/Beam";
import { size } from "../words";
import css from "./purge.module.css";

interface Props {
  now: Scale;
  /** What the choices would make of it; null while nothing is chosen, undefined where they change no weight. */
  after?: Scale | null;
}

/** Bytes that are still there once what is set aside is emptied. */
const keptOf = ({ weights, total }: Scale) =>
  total - weights.filter((w) => w.use === "SetAside").reduce((sum, w) => sum + w.bytes, 0);

/** The weighbridge twice: as it is, and as it would be. */
export function Scales({ now, after }: Props) {
  const most = Math.max(now.total, after?.total ?? 0, 1);
  return (
    <section className={css.scales} aria-label="Size before and after">
      <Pan label="Now" scale={now} most={most} />
      {after !== undefined && <Pan label="Then" scale={after ?? now} most={most} isDim={after === null} />}
    </section>
  );
}

function Pan({ label, scale, most, isDim = false }: { label: string; scale: Scale; most: number; isDim?: boolean }) {
  const kept = keptOf(scale);
  const held = scale.total - kept;
  return (
    <div className={`${css.pan} ${isDim ? css.dim : ""}`}>
      <span className={css.panLabel}>{label}</span>
      <Beam weights={scale.weights} otherBytes={scale.otherBytes} most={most} />
      <span className={css.panFigure}>
        {size(kept)}
        {held > 0 && <small>{`+ ${size(held)} set aside`}</small>}
      </span>
    </div>
  );
}
