import { Button } from "antd";
import { type ReactNode, useState } from "react";
import { Link } from "react-router";
import { useFile, useFileUses, useIdentities } from "../api/queries";
import type { FileDetails, FileEntry, Take } from "../api/types";
import { useSessionId } from "../frame/sessionContext";
import { Listen } from "../listening/Listen";
import { isOfCatalogue } from "../listening/mediaSource";
import { isAudible } from "../listening/usePeaks";
import { PathText } from "../shelves/PathText";
import { number, position, rate, size, soundLength, standingWord, textOfUse, when } from "../words";
import css from "./files.module.css";
import { StandingMark } from "./StandingMark";
import type { SessionFiles } from "./useFiles";

const evidenceWord: Record<Take["evidence"], string> = {
  List: "the session's list",
  Ixml: "what the recorder wrote into it",
  Name: "its name",
  None: "no match",
};

const takeText = (take: Take | null) =>
  take &&
  ([take.track, take.number && `take ${take.number}`, take.pass && `pass ${take.pass}`].filter(Boolean).join(", ") ||
    null);

/** The rows of a list of which one is chosen. */
export type TaggedRows = Pick<SessionFiles, "loaded" | "active" | "setActive">;

interface ActiveProps {
  rows: TaggedRows;
  more?: ReactNode;
  /** False for what is no media of the session: of it no more is known than the row says. */
  isMedia?: boolean;
}

/** All about the chosen file of a list; while it is asked for, what the row says. */
export function ActiveFile({ rows, more, isMedia = true }: ActiveProps) {
  const id = useSessionId();
  const row = rows.loaded.find((f) => f.id === rows.active);
  const details = useFile(id, isMedia ? rows.active : null);
  const shown = details.data ?? (row && { ...nothingMore, file: row });
  return shown ? (
    <FileTag details={shown} onClose={() => leaveTag(() => rows.setActive(null))} more={more} isMedia={isMedia} />
  ) : null;
}

/** Closes what stands beside the list; the list has the keyboard again. */
export function leaveTag(close: () => void) {
  close();
  document.querySelector<HTMLElement>("[role=grid]")?.focus();
}

const nothingMore = { path: "", broadcast: null, tracks: [], tags: [], origin: null };

/** All about a file of the catalogue. */
export const CatalogueTag = ({ file, onClose }: { file: FileEntry; onClose: () => void }) => (
  <FileTag details={{ ...nothingMore, file, path: `${file.shelfName}: ${file.shownPath}` }} onClose={onClose} />
);

interface TagProps {
  details: FileDetails;
  onClose: () => void;
  /** What the station has to say of the file. */
  more?: ReactNode;
  isMedia?: boolean;
}

function FileTag({ details, onClose, more, isMedia = true }: TagProps) {
  const { file, path, broadcast, tracks, tags } = details;
  const rows: [string, string | null][] = [
    isOfCatalogue(file)
      ? ["Use", null]
      : ["Use", textOfUse(file) + (tracks.length > 0 ? ` on ${tracks.join(", ")}` : "")],
    ["Take", takeText(file.take)],
    ["Track found from", file.take ? evidenceWord[file.take.evidence] : null],
    ["Starts at", file.take?.startSeconds == null ? null : position(file.take.startSeconds)],
    ["Repaired as", file.take?.repairedAs ?? null],
    [
      "Length",
      file.seconds === null ? null : `${soundLength(file.seconds)} · ${number(file.lengthSamples ?? 0)} samples`,
    ],
    [
      "Format",
      file.sampleRate ? `${file.container} ${rate(file.sampleRate)}, ${file.bitDepth} bit, ${file.channels} ch` : null,
    ],
    ["Size", file.bytes > 0 ? `${size(file.bytes)} · ${number(file.bytes)} bytes` : null],
    ["Changed", file.changed ? when(file.changed) : null],
    ["Recorded", broadcast ? `${broadcast.date} ${broadcast.time}` : null],
    ["Description", broadcast?.description || null],
    ["Time reference", broadcast ? `${number(Number(broadcast.timeReference))} samples` : null],
    ["Shelf", file.shelfName],
    ...tags.map((t): [string, string] => [t.name.toLowerCase(), t.value]),
  ];
  return (
    <aside className={css.fileTag} aria-label={`About ${file.name}`}>
      <header>
        <h2>{file.name}</h2>
        <Button size="small" type="text" onClick={onClose} aria-label="Close the file tag">
          Close
        </Button>
      </header>
      <p className={css.where}>
        <StandingMark standing={file.standing} isHeld={file.use === "SetAside"} silent />{" "}
        {file.use === "SetAside" ? "set aside" : standingWord[file.standing]}
      </p>
      <Listen file={file} />
      {more}
      {file.standing === "Away" && (
        <p className={css.remark}>
          {file.changed
            ? `As it was when '${file.shelfName}' was last scanned. Connect that shelf to hear this.`
            : `Nothing more is known: '${file.shelfName}' was never scanned with this on it.`}
        </p>
      )}
      {file.problem && <p className="trouble">{file.problem}</p>}
      {file.remarks.map((remark) => (
        <p className={css.remark} key={remark}>
          {remark}
        </p>
      ))}
      {isMedia && !isOfCatalogue(file) && <UsedElsewhere file={file} />}
      <dl>
        {rows.map(
          ([name, value]) =>
            value && (
              <div key={name}>
                <dt>{name}</dt>
                <dd>{value}</dd>
              </div>
            ),
        )}
      </dl>
      {path.startsWith("/") ? <PathText path={path} /> : path && <span className="path">{path}</span>}
      {!isOfCatalogue(file) && isAudible(file) && <Identities key={file.id} file={file} />}
    </aside>
  );
}

/** Older versions and other sessions that use the file: whoever lets it go must hear of them. */
function UsedElsewhere({ file }: { file: FileEntry }) {
  const id = useSessionId();
  const uses = useFileUses(id, file, id !== "");
  const others = uses.data?.filter((u) => u.sessionId !== id || !u.isCurrent) ?? [];
  if (others.length === 0) return null;
  return (
    <section className={css.usedElsewhere} aria-label="Used elsewhere">
      <h3>Used elsewhere</h3>
      <ul>
        {others.map((u) => (
          <li key={`${u.sessionId} ${u.document}`}>
            {u.sessionId === id ? "older version" : <Link to={`/sessions/${u.sessionId}`}>{u.session}</Link>}{" "}
            <span className="quiet">
              {u.document},{" "}
              {textOfUse({ use: u.placed > 0 ? "Placed" : "Listed", placedTimes: u.placed, namedTimes: 0 })}
              {u.tracks.length > 0 && ` on ${u.tracks.join(", ")}`}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** Its identities, worked out when somebody asks: the whole file has to be read for them. */
function Identities({ file }: { file: FileEntry }) {
  const id = useSessionId();
  const [asked, setAsked] = useState(false);
  const identities = useIdentities(id, file, asked);
  if (!asked) {
    return (
      <Button size="small" type="text" className={`${css.identities}`} onClick={() => setAsked(true)}>
        Show checksums
      </Button>
    );
  }
  if (identities.error) return <p className="trouble">{identities.error.message}</p>;
  if (!identities.data) return <p className="quiet">Reading the whole file.</p>;
  return (
    <dl>
      <div>
        <dt>whole file</dt>
        <dd className={`mono ${css.identity}`}>{identities.data.bytes}</dd>
      </div>
      <div>
        <dt>sound only</dt>
        <dd className={`mono ${css.identity}`}>{identities.data.sound ?? "no sound"}</dd>
      </div>
      <div>
        <dt>samples only, in any format</dt>
        <dd className={`mono ${css.identity}`}>
          {identities.data.samples ?? "none: this format keeps no exact samples"}
        </dd>
      </div>
    </dl>
  );
}
