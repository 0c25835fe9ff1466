import { Fragment } from "react";
import type { State, SumPart } from "./arranged";
import css from "./loading-bay.module.css";

interface Props {
  parts: readonly SumPart[];
  state: State | null;
  onChange: (state: State | null) => void;
}

/** All sessions in one line, each part of which shows those that it is about. */
export function SumLine({ parts, state, onChange }: Props) {
  return (
    <p className={`quiet ${css.sum}`}>
      {parts.length === 0 && "No session is known yet."}
      {parts.map(({ text, of }, n) => (
        <Fragment key={of}>
          {n > 0 && "; "}
          {parts.length === 1 ? (
            text
          ) : (
            <button
              type="button"
              aria-pressed={of === (state ?? "all")}
              onClick={() => onChange(of === "all" ? null : of)}
            >
              {text}
            </button>
          )}
        </Fragment>
      ))}
      {parts.length > 0 && (parts.some((p) => p.of === "needs") ? "." : "; none needs you.")}
    </p>
  );
}
