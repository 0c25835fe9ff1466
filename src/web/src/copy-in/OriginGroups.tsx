import type { Origin, OriginWeight } from "../api/types";
import { ActBox } from "../frame/ActBox";
import { count, size } from "../words";
import css from "./copy-in.module.css";

const kindWord: Record<Origin["kind"], string> = {
  OtherSession: "another session",
  OwnLibrary: "own library",
  StockContent: "stock content",
  Removable: "removable drive",
  Loose: "loose",
};

interface Props {
  origins: readonly OriginWeight[];
  chosen: string | null;
  onChoose: (place: string | null) => void;
  onMark: (place: string, taken: boolean) => void;
}

/** Where outside files come from: each place with its weight, taken or left out as a whole, and a filter for the list. */
export function OriginGroups({ origins, chosen, onChoose, onMark }: Props) {
  if (origins.length === 0) return null;
  return (
    <ul className={css.origins} aria-label="Where outside files come from">
      {origins.map(({ origin, files, bytes, leftOut, away, awayBytes }) => {
        const taken = files - leftOut;
        return (
          <li key={origin.place} className={taken === 0 ? css.leftOut : ""}>
            <ActBox
              aria-label={`Copy in from ${origin.name}`}
              checked={leftOut === 0 && files > 0}
              indeterminate={taken > 0 && leftOut > 0}
              disabled={files === 0}
              onChange={(e) => onMark(origin.place, e.target.checked)}
            />
            <button
              type="button"
              aria-pressed={chosen === origin.place}
              title={origin.place}
              onClick={() => onChoose(chosen === origin.place ? null : origin.place)}
            >
              <strong>{origin.name}</strong>
              <span className="quiet">{kindWord[origin.kind]}</span>
              <span className="mono">
                {files > 0 && `${count(files, "file")}, ${size(bytes)}`}
                {away > 0 && `${files > 0 ? " · " : ""}${away} away${awayBytes === null ? "" : `, ${size(awayBytes)}`}`}
              </span>
              <span className={css.originState}>
                {files === 0
                  ? "connect it to copy in"
                  : taken === 0
                    ? "left out: this session depends on it"
                    : leftOut > 0
                      ? `${leftOut} left out`
                      : "will be copied in"}
              </span>
            </button>
          </li>
        );
      })}
    </ul>
  );
}
