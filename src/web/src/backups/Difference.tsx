import type { Comparison } from "../api/types";
import { count } from "../words";
import css from "./backups.module.css";
import { changeMark, clipWords } from "./words";

/** What differs between two versions, track by track, in words. */
export function Difference({ comparison }: { comparison: Comparison }) {
  return (
    <div className={css.difference}>
      <p role="status">{comparison.sentence}</p>
      {comparison.tracks.map((track) => (
        <section key={`${track.name} ${track.change}`} aria-label={`Track ${track.name}`}>
          <h3>
            {track.name || "Track without a name"}
            {track.change !== "Changed" && <em> {track.change === "Added" ? "added" : "gone"}</em>}
            {track.same > 0 && <span className="quiet"> {count(track.same, "clip")} as before</span>}
          </h3>
          <ul>
            {track.clips.map((clip, n) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: clips have no identity, and the list is shown whole
              <li key={n} data-change={clip.change}>
                <b aria-hidden="true">{changeMark[clip.change]}</b> {clipWords(clip)}
                {clip.missing && <span className="trouble"> · its file is missing now</span>}
              </li>
            ))}
          </ul>
        </section>
      ))}
      {comparison.files.length > 0 && (
        <section aria-label="Files">
          <h3>Files</h3>
          <ul>
            {comparison.files.map((file) => (
              <li key={file.path} data-change={file.isNewlyUsed ? "Added" : "Gone"}>
                <b aria-hidden="true">{file.isNewlyUsed ? "+" : "−"}</b> <span className="path">{file.path}</span>{" "}
                {`${file.isNewlyUsed ? "newly" : "no longer"} ${comparison.isByNames ? "named" : "used"}`}
                {file.wasThere === false && <span className="quiet"> · was missing then</span>}
                {!file.isThere && <span className="trouble"> · missing now</span>}
              </li>
            ))}
          </ul>
        </section>
      )}
    </div>
  );
}
