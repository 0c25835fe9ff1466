import { useIsSlow, useLostSince } from "../api/connection";
import { timeOf } from "../words";
import css from "./top-strip.module.css";

/** Says that the server is gone, and of when what is in sight is, or that it takes long; goes by itself. */
export function ConnectionLost() {
  const since = useLostSince();
  const isSlow = useIsSlow();
  if (isSlow)
    return (
      <div className={css.notice} role="status">
        <span>Neat Crate does not answer at once. It may be busy; what you see may be older than what is so.</span>
      </div>
    );
  if (since === null) return null;
  return (
    <div className={`${css.notice} ${css.lost}`} role="alert">
      <span>
        <strong>Connection lost.</strong>{" "}
        {`You see what was known at ${timeOf(since)}. Nothing can be applied or recorded until Neat Crate answers again; what you type is kept.`}
      </span>
    </div>
  );
}
