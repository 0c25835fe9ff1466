import { Fragment } from "react";
import { Link } from "react-router";
import type { SessionLabel } from "../api/types";
import css from "./sentence.module.css";
import type { StationKey } from "./stations";

/** Where what a part of the sentence is about is mended. */
const mendedAt: Record<SessionLabel["says"][number]["about"], StationKey | null> = {
  Nothing: null,
  Silent: "relink",
  OlderLosses: "relink",
  Outside: "copy-in",
  Idle: "purge",
};

/** The one honest sentence about a session; each of its parts leads to where that is mended. */
export function Sentence({ session: { id, says } }: { session: Pick<SessionLabel, "id" | "says"> }) {
  return says.map(({ about, joint, text }) => {
    const station = mendedAt[about];
    return (
      <Fragment key={text}>
        {joint}
        {station ? (
          <Link className={css.sentencePart} to={`/sessions/${id}/${station}`}>
            {text}
          </Link>
        ) : (
          text
        )}
      </Fragment>
    );
  });
}
