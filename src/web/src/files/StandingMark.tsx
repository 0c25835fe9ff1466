import type { Standing } from "../api/types";
import { standingWord } from "../words";
import css from "./standing-mark.module.css";

/** Where a file stands, told by shape: a solid square, one with its side open, one struck through, a dashed empty one. */
export function StandingMark({ standing, silent = false }: { standing: Standing; silent?: boolean }) {
  const said = silent ? {} : { role: "img", "aria-label": standingWord[standing] };
  return (
    <span className={css.standing} data-standing={standing} {...said}>
      <svg viewBox="0 0 14 14" width="14" height="14" aria-hidden="true">
        {standing === "Inside" && <rect x="2" y="2" width="10" height="10" fill="currentColor" />}
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
