import type { Standing } from "../api/types";
import { standingWord, useWord } from "../words";
import css from "./standing-mark.module.css";

interface Props {
  standing: Standing;
  /** True for one inside that is set aside. */
  isHeld?: boolean;
  silent?: boolean;
}

/** Where a file stands, told by shape: a solid square, one on a bar, one with its side open, one struck through, a dashed empty one. */
export function StandingMark({ standing, isHeld = false, silent = false }: Props) {
  const said = silent ? {} : { role: "img", "aria-label": isHeld ? useWord.SetAside : standingWord[standing] };
  return (
    <span className={css.standing} data-standing={standing} {...said}>
      <svg viewBox="0 0 14 14" width="14" height="14" aria-hidden="true">
        {standing === "Inside" && !isHeld && <rect x="2" y="2" width="10" height="10" fill="currentColor" />}
        {isHeld && (
          <>
            <rect x="3.5" y="1" width="7" height="7" fill="none" stroke="currentColor" strokeWidth="1.6" />
            <path d="M0.5 12h13" stroke="currentColor" strokeWidth="2.4" />
          </>
        )}
        {standing === "Outside" && <path d="M12 2H2v10h10" fill="none" stroke="currentColor" strokeWidth="2.2" />}
        {standing === "Away" && (
          <>
            <rect x="2" y="2" width="10" height="10" fill="none" stroke="currentColor" strokeWidth="1.6" />
            <path d="M0.5 13.5l13-13" stroke="currentColor" strokeWidth="1.8" />
          </>
        )}
        {standing === "Missing" && (
          <rect
            x="2"
            y="2"
            width="10"
            height="10"
            fill="none"
            stroke="currentColor"
            strokeWidth="1.8"
            strokeDasharray="3 2"
          />
        )}
      </svg>
    </span>
  );
}
