import { Button, Input, Popover } from "antd";
import { type ReactNode, useState } from "react";
import { useFileUses } from "../api/queries";
import type { FileEntry, LostDetails, LostMark, Match, RelinkWay } from "../api/types";
import { Choices } from "../frame/Choices";
import { useSessionId } from "../frame/sessionContext";
import { Listen } from "../listening/Listen";
import { ofLost, ofMatch } from "../listening/mediaSource";
import { usePlayer } from "../listening/player";
import { count, day, duration, number, placeText, rate, when } from "../words";
import { OutlinesTogether } from "./OutlinesTogether";
import css from "./relink.module.css";
import { onlyWay } from "./useCompareNext";
import { certaintyOf, linesOf, verdictWord, wayHint, wayWord } from "./words";

interface Props {
  details: LostDetails;
  /** The row of the missing file, for asking where it is used. */
  row: FileEntry;
  /** What is taken for it; null where nothing is. */
  taken: string | null;
  way: RelinkWay;
  /** The file that is compared with it. */
  shown: Match | undefined;
  onShow: (id: string) => void;
  /** How many others are to be compared, and the way to the next. */
  others: number;
  onNext: () => void;
  /** `only`: the way in which it comes back where it cannot in any other. */
  onTake: (foundId: string | null, only?: RelinkWay) => void;
  onWay: (way: RelinkWay) => void;
  onMark: (mark: LostMark, note: string | null) => void;
  onClose: () => void;
}

/** A missing file and what may be it: two tags on one string, line by line. */
export function TwoTags({ details, row, taken, shown, way, others, ...on }: Props) {
  const { lost, facts, matches } = details;
  const { onShow, onNext, onTake, onWay, onMark, onClose } = on;
  return (
    <aside className={css.tags} aria-label={`About ${lost.name}`}>
      <header className={css.tagsHead}>
        <h2>{lost.name}</h2>
        <span>
          {others > 0 && (
            <Button size="small" onClick={onNext} title="To the next pair that nobody decided (N)">
              {`Compare next (${number(others)})`}
            </Button>
          )}
          <Button size="small" type="text" onClick={onClose} aria-label="Close the comparison">
            Close
          </Button>
        </span>
      </header>
      {shown && (
        <>
          {matches.length > 1 && <Others matches={matches} shown={shown} onShow={onShow} />}
          <Comparison details={details} match={shown}>
            <div className={css.decide}>
              {shown.isThere ? (
                <Button
                  onClick={() =>
                    taken === shown.id ? onTake(null) : onTake(shown.id, onlyWay(shown, lost.canPutBack))
                  }
                >
                  {taken === shown.id ? "Don't use it" : "Use this one"} <kbd>{taken === shown.id ? "L" : "K"}</kbd>
                </Button>
              ) : (
                <p className="warning">{`It is on “${shown.shelfName}”, which is away. Plug it in, and it can be taken.`}</p>
              )}
              {taken === shown.id && !shown.isInside && (
                <span title={wayHint[way]}>
                  <Choices<RelinkWay>
                    label="How it comes back"
                    value={way}
                    onChange={onWay}
                    options={(["CopyIn", "Repoint", "PutBack"] as const).map((value) => ({
                      value,
                      label: wayWord[value],
                      disabled:
                        (value === "PutBack" && !lost.canPutBack) || (value === "Repoint" && shown.keptIn !== null),
                    }))}
                  />
                </span>
              )}
            </div>
          </Comparison>
        </>
      )}
      {!lost.best && lost.standing === "Missing" && <NoTrace details={details} />}
      <LastSeen details={details} />
      <LookedFor details={details} />
      {details.history && <p className="quiet">{details.history}</p>}
      <UsedBy row={row} />
      <Marks lost={details} onMark={onMark} />
      {facts.path !== "" && <p className="path" title={facts.path}>{`should be at ${placeText(facts.place)}`}</p>}
    </aside>
  );
}

/** All files that may be it; moving among them while one is heard plays the next at the same place. */
function Others({ matches, shown, onShow }: { matches: readonly Match[]; shown: Match; onShow: (id: string) => void }) {
  const id = useSessionId();
  const show = (match: Match) => {
    onShow(match.id);
    const { playing, fileId, at, seek, play } = usePlayer.getState();
    if (playing && fileId?.startsWith("found-") && match.isThere) {
      seek(id, ofMatch(match), at);
      play(id, ofMatch(match));
    }
  };
  return (
    <ul className={css.others} aria-label="Files that may be it">
      {matches.map((match) => (
        <li key={match.id}>
          <button
            type="button"
            aria-pressed={match.id === shown.id}
            onClick={() => show(match)}
            title={match.facts.path}
          >
            <span>{match.facts.name}</span>
            <small>{match.keptIn ?? match.shelfName ?? "no shelf"}</small>
            <small>{certaintyOf(match)}</small>
          </button>
        </li>
      ))}
    </ul>
  );
}

interface ComparisonProps {
  details: LostDetails;
  match: Match;
  /** What is decided by it. */
  children: ReactNode;
}

function Comparison({ details, match, children }: ComparisonProps) {
  const { facts, neededSeconds } = details;
  const lostFile = ofLost(details);
  const isSame = match.evidence.some((e) => e.kind === "Bytes" && e.verdict === "Agrees");
  // It can be heard where another file holds the same bytes.
  const heardFile: FileEntry = { ...lostFile, standing: details.heardFrom ? "Outside" : "Missing" };
  // What clips need is marked on what was found, where both count the same samples.
  const foundFile = { ...ofMatch(match), used: facts.sampleRate === match.facts.sampleRate ? lostFile.used : [] };
  return (
    <>
      <p className={match.certainty === "None" ? css.guess : css.sure}>{certaintyOf(match)}</p>
      {match.tooShort && (
        <p className="warning">{`Clips play ${duration(neededSeconds ?? 0)} of it; this one is ${duration(match.facts.seconds ?? 0)} long.`}</p>
      )}
      {facts.sampleRate && match.facts.sampleRate && facts.sampleRate !== match.facts.sampleRate && (
        <p className="warning">{`It was at ${rate(facts.sampleRate)}; this one is at ${rate(match.facts.sampleRate)}, and plays at another speed and pitch.`}</p>
      )}
      <OutlinesTogether lost={lostFile} found={foundFile} />
      {details.heardFrom && !isSame && (
        <>
          <p className="quiet">{`The missing sound, heard from ${details.heardFrom}:`}</p>
          <Listen file={heardFile} partner={foundFile} />
          {match.isThere && <p className="quiet">What was found:</p>}
        </>
      )}
      {match.isThere && <Listen file={foundFile} partner={heardFile} />}
      {children}
      <table className={css.evidence}>
        <caption className="unseen">The evidence, line by line</caption>
        <thead>
          <tr>
            <td />
            <th scope="col">missing</th>
            <th scope="col">
              <span className="unseen">compared</span>
            </th>
            <th scope="col">found</th>
          </tr>
        </thead>
        <tbody>
          {linesOf(facts, match).map((line) => (
            <tr key={line.kind} data-verdict={line.verdict}>
              <th scope="row">{line.title}</th>
              <td>{line.lost ?? ""}</td>
              <td className={css.verdict}>
                <span className={css.shape} aria-hidden="true" />
                {verdictWord[line.verdict]}
              </td>
              <td title={line.kind === "Folder" ? match.facts.path : undefined}>{line.found ?? ""}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}

function NoTrace({ details }: { details: LostDetails }) {
  const { facts, isIdentified } = details;
  const known = [
    facts.seconds !== null && duration(facts.seconds),
    facts.sampleRate !== null && rate(facts.sampleRate),
    facts.changed !== null && `last changed ${day(facts.changed)}`,
  ].filter(Boolean);
  return (
    <div className={css.noTrace}>
      <p>
        No shelf has a file that fits, by name, size, length or sound. It may be on a drive that Neat Crate has never
        seen.
      </p>
      <p className="quiet">
        {known.length > 0 ? `Known of it: ${known.join(", ")}.` : "Nothing is known of it but its name and place."}{" "}
        {isIdentified && "Its sound was noted while it was there, so that it is recognised under any name."}
      </p>
      <p className="quiet">“Where to look” searches any folder for it.</p>
    </div>
  );
}

/** Where and when it was there last, as far as scans tell. */
function LastSeen({ details }: { details: LostDetails }) {
  const { lost, lastSeen, foundGone } = details;
  if (!lastSeen && !foundGone) return null;
  const where = lost.shelfName ? ` on “${lost.shelfName}”` : "";
  return (
    <p className="quiet">
      {[lastSeen && `Last seen${where} on ${when(lastSeen)}.`, foundGone && `Found to be gone on ${when(foundGone)}.`]
        .filter(Boolean)
        .join(" ")}
    </p>
  );
}

function LookedFor({ details }: { details: LostDetails }) {
  if (details.searched.length === 0) return null;
  return (
    <p className="quiet">
      {`Looked for, and not found, in ${details.searched
        .map((s) => `${placeText(s.place)} (${when(s.ended)}${s.isWhole ? "" : ", stopped"})`)
        .join("; ")}.`}
    </p>
  );
}

/** Which sessions and versions use it: where one of them still has it, it may be. */
function UsedBy({ row }: { row: FileEntry }) {
  const uses = useFileUses(useSessionId(), row, true).data ?? [];
  if (uses.length === 0) return null;
  return (
    <p className="quiet">
      {`Used by ${uses
        .slice(0, 4)
        .map((u) => `${u.session}: ${u.document}`)
        .join(", ")}${uses.length > 4 ? ` and ${count(uses.length - 4, "more")}` : ""}.`}
    </p>
  );
}

/** It stops asking, and stays on the record. */
function Marks({ lost, onMark }: { lost: LostDetails; onMark: (mark: LostMark, note: string | null) => void }) {
  const [note, setNote] = useState("");
  const [isOpen, setOpen] = useState(false);
  if (lost.lost.standing !== "Missing") return null;
  if (lost.lost.mark !== "None")
    return (
      <div className={css.decide}>
        <span className="quiet">
          {lost.lost.mark === "Gone" ? "Given up" : "Later"}
          {lost.lost.note && `: ${lost.lost.note}`}
        </span>
        <Button size="small" onClick={() => onMark("None", null)}>
          Ask again
        </Button>
      </div>
    );
  return (
    <div className={css.decide}>
      <Button size="small" onClick={() => onMark("Skipped", null)}>
        Later
      </Button>
      <Popover
        trigger="click"
        open={isOpen}
        onOpenChange={setOpen}
        content={
          <div className={css.goneNote}>
            <Input.TextArea
              aria-label="Note"
              maxLength={2000}
              autoSize={{ minRows: 2, maxRows: 4 }}
              placeholder="what became of it, for whoever asks later"
              value={note}
              onChange={(e) => setNote(e.target.value)}
            />
            <Button
              size="small"
              onClick={() => {
                setOpen(false);
                onMark("Gone", note);
              }}
            >
              Mark it as gone
            </Button>
          </div>
        }
      >
        <Button size="small">Give up on this file</Button>
      </Popover>
    </div>
  );
}
