import { Button, Checkbox, Input, type InputRef } from "antd";
import { useState } from "react";
import type { Backups, Version } from "../api/types";
import { Act } from "../frame/Act";
import { Choices } from "../frame/Choices";
import { Field } from "../frame/Field";
import { FolderPicker } from "../shelves/FolderPicker";
import { count, size } from "../words";
import css from "./backups.module.css";
import { Difference } from "./Difference";
import { useBackupWork, useComparison, useVersion } from "./queries";
import type { Restoring, RestoringWay } from "./restoring";
import { savedAt } from "./words";

interface Props {
  id: string;
  backups: Backups;
  chosen: readonly Version[];
  documentChanged: string | null;
  restoring: Restoring;
  onRestoring: (next: Restoring) => void;
  onClose: () => void;
}

/** The chosen version, or the two: what they are, how they differ, and the ways back. */
export function ChosenVersions({ id, chosen, documentChanged, restoring, onRestoring, onClose }: Props) {
  const [one, other] = chosen;
  const comparison = useComparison(id, one?.key, other?.key, documentChanged);
  if (!one) return null;
  const [before, after] = other && one.saved > other.saved ? [other, one] : [one, other];
  return (
    <aside className={css.chosenVersions} aria-label="Chosen versions">
      <header>
        <h2>
          {savedAt(before)}
          {after && ` → ${savedAt(after)}`}
        </h2>
        <Button size="small" type="text" onClick={onClose}>
          Close
        </Button>
      </header>
      {chosen.map((version) => (
        <VersionFacts key={version.key} id={id} version={version} />
      ))}
      <h3>{other ? "What differs between the two" : "What changed since, to the document as it is now"}</h3>
      {comparison.error && <p className="trouble">{comparison.error.message}</p>}
      {comparison.isLoading && <p className="quiet">Comparing.</p>}
      {comparison.data && <Difference comparison={comparison.data} />}
      {!other && <WaysBack id={id} version={one} restoring={restoring} onRestoring={onRestoring} />}
    </aside>
  );
}

function VersionFacts({ id, version }: { id: string; version: Version }) {
  return (
    <div className={css.facts}>
      {version.kind === "Document" ? (
        <VersionNote id={id} version={version} />
      ) : (
        version.note && <strong>“{version.note}”</strong>
      )}
      <p className="quiet">
        {version.kind === "Full"
          ? `Full backup in ${version.vault}${version.isAway ? " (away)" : ""}: ${count(version.files ?? 0, "file")}, ${size(version.bytes)}, ${size(version.newBytes ?? 0)} new then.`
          : `${version.document}, ${size(version.bytes)}, kept ${version.isHere ? "here" : "in the second place"}${version.isHere && version.isInSecond ? " and in the second place" : ""}.`}
        {(version.leftOut ?? 0) > 0 && ` Without ${count(version.leftOut ?? 0, "file")} that could not be read.`}
        {version.isCurrent && " The document is as it was then."}
      </p>
    </div>
  );
}

/** What is said of a kept save; mostly one knows it afterwards. */
function VersionNote({ id, version }: { id: string; version: Version }) {
  const { say } = useBackupWork(id);
  const [text, setText] = useState<string | null>(null);
  const note = text?.trim() ?? "";
  const done = () => {
    if (note === "" || note === version.note) setText(null);
    else say.mutate({ version: version.key, note }, { onSuccess: () => setText(null) });
  };
  if (text === null)
    return (
      <p className={css.bar}>
        {version.note && <strong>“{version.note}”</strong>}
        <Button size="small" onClick={() => setText(version.note ?? "")}>
          {version.note ? "Change the note" : "Say what it is"}
        </Button>
      </p>
    );
  return (
    <form
      className={css.bar}
      onSubmit={(e) => {
        e.preventDefault();
        done();
      }}
    >
      <Input
        // The field comes because somebody asked to write in it.
        ref={focused}
        size="small"
        aria-label="What this save is"
        maxLength={1000}
        value={text}
        onChange={(e) => setText(e.target.value)}
        onKeyDown={(e) => e.key === "Escape" && setText(null)}
      />
      <Act size="small" htmlType="submit" disabled={note === ""} loading={say.isPending}>
        Keep the note
      </Act>
      {say.error && (
        <p className="trouble" role="alert">
          {say.error.message}
        </p>
      )}
    </form>
  );
}

const focused = (input: InputRef | null) => input?.focus();

interface WaysProps {
  id: string;
  version: Version;
  restoring: Restoring;
  onRestoring: (next: Restoring) => void;
}

/** Bring back a document, single tracks, single files, or all of it: each beside what is there. */
function WaysBack({ id, version, restoring, onRestoring }: WaysProps) {
  const content = useVersion(id, version.key);
  const toggle = (list: readonly string[], item: string, on: boolean) =>
    on ? [...list, item] : list.filter((l) => l !== item);
  const ways: { value: RestoringWay; label: string }[] = [
    { value: "none", label: "Only look" },
    { value: "tracks", label: "Tracks" },
    { value: "document", label: "The document" },
    ...(version.kind === "Full"
      ? ([
          { value: "files", label: "Files" },
          { value: "session", label: "The whole session" },
        ] as const)
      : []),
  ];
  return (
    <section className={css.waysBack} aria-label="Bring back">
      <h3>Bring back</h3>
      <div className={css.bar}>
        <Choices<RestoringWay>
          label="What to bring back"
          value={restoring.way}
          onChange={(way) => onRestoring({ ...restoring, way })}
          options={ways}
        />
      </div>
      {content.error && <p className="trouble">{content.error.message}</p>}
      {restoring.way === "document" && (
        <p className="quiet">Under a new name, beside the current one, which stays the current document.</p>
      )}
      {restoring.way === "tracks" && (
        <>
          <p className="quiet">As new tracks at the end of the current document. All other tracks stay as they are.</p>
          {content.data?.problem && <p className="trouble">{content.data.problem}</p>}
          {content.data?.tracks.map((track) => (
            <Checkbox
              key={track}
              checked={restoring.tracks.includes(track)}
              onChange={(e) => onRestoring({ ...restoring, tracks: toggle(restoring.tracks, track, e.target.checked) })}
            >
              {track}
            </Checkbox>
          ))}
        </>
      )}
      {restoring.way === "files" && (
        <div className={css.versionFiles}>
          {content.data?.files.map((file) => (
            <Checkbox
              key={file.path}
              checked={restoring.paths.includes(file.path)}
              onChange={(e) =>
                onRestoring({ ...restoring, paths: toggle(restoring.paths, file.path, e.target.checked) })
              }
            >
              <span className="path">{file.path}</span>{" "}
              <span className="mono quiet">
                {size(file.bytes)} ·{" "}
                {file.isSame ? "there as it was" : file.isThere ? "another one is there" : "not there"}
              </span>
            </Checkbox>
          ))}
        </div>
      )}
      {restoring.way === "session" && (
        <>
          <p className="quiet">
            Into an empty place, every file checked. It stands on the loading bay as a session of its own.
          </p>
          <FolderPicker
            label="Put it in"
            value={restoring.place}
            onChange={(place) => onRestoring({ ...restoring, place })}
          />
          <Field label="Name of the folder">
            {(fieldId) => (
              <Input
                id={fieldId}
                maxLength={255}
                value={restoring.name}
                onChange={(e) => onRestoring({ ...restoring, name: e.target.value })}
              />
            )}
          </Field>
        </>
      )}
    </section>
  );
}
