import { AutoComplete, Button, Checkbox, Input, Progress } from "antd";
import { useEffect, useEffectEvent, useMemo, useRef, useState } from "react";
import { Link } from "react-router";
import { answer, api } from "../api/client";
import { everything } from "../api/queries";
import type { FileEntry } from "../api/types";
import { catalogueList } from "../files/columns";
import { FileList } from "../files/FileList";
import { WithTag } from "../files/FilesWithTag";
import { CatalogueTag } from "../files/FileTag";
import { Choices } from "../frame/Choices";
import { useDraft, useMarks, useRemembered } from "../frame/kept";
import { catalogueId } from "../listening/mediaSource";
import { PlanTray } from "../plans/PlanTray";
import type { StationProps } from "../plans/stationProps";
import { usePlanned } from "../plans/usePlanned";
import { count, number, parsePosition, positionToTenths, rate, size } from "../words";
import { CatalogueSearchBar } from "./CatalogueSearchBar";
import css from "./copy-in.module.css";
import { useFreeTime } from "./queries";
import { useCatalogueFiles } from "./useCatalogueFiles";
import { type Arriving, useUploads } from "./useUploads";

/** Finds samples and other media on all shelves, or takes them from the user's computer, and brings them into the session. */
export function ImportPanel({ inventory, run }: StationProps) {
  const { session } = inventory;
  const [search, setSearch] = useDraft("import search", everything);
  const [sort, setSort] = useRemembered("sort catalogue", catalogueList.first);
  const rows = useCatalogueFiles(session.id, search, sort, setSort);
  const [chosenFiles, setChosenFiles] = useMarks<FileEntry[]>("import chosen", []);
  const chosen = useMemo(() => new Map(chosenFiles.map((f) => [f.id, f])), [chosenFiles]);
  const [active, setActive] = useState<string | null>(null);
  const uploads = useUploads(session.id);
  const [byReference, setByReference] = useDraft("import by reference", inventory.settings?.copyOnImport === false);
  const [isPlaced, setIsPlaced] = useDraft("import placed", false);
  const [track, setTrack] = useDraft("import track", inventory.trackNames[0] ?? "");
  // Where nobody typed a time, the first that is free.
  const [typedAt, setAt] = useDraft<string | null>("import at", null);
  const [convert, setConvert] = useDraft("import convert", false);
  const isAble = (file: FileEntry) => file.standing !== "Away";
  const able = rows.loaded.filter(isAble);

  const arrived = uploads.arriving.flatMap((a) => (a.upload ? [a.upload] : []));
  const isArriving = uploads.arriving.some((a) => !a.upload && !a.error);
  const sessionRate = session.sampleRate;
  const foreign = [...chosen.values(), ...arrived].filter(
    (f) => f.sampleRate !== null && sessionRate !== null && f.sampleRate !== sessionRate,
  ).length;
  const lasts = [...chosen.values(), ...arrived].reduce((sum, f) => sum + (f.seconds ?? 0), 0);
  const asked = useFreeTime(session.id, isPlaced ? track.trim() : null, lasts, session.documentChanged ?? null);
  // Where it cannot be told, the plan says why.
  const free = asked.isError ? null : asked.data;
  const proposed = free == null ? null : positionToTenths(free);
  const at = typedAt ?? proposed ?? "0:00";
  // What is proposed is a number already: behind the first hour it is written in a way that nobody types.
  const position = typedAt === null ? (free ?? 0) : parsePosition(typedAt);
  const isSure = !isPlaced || (position !== null && track.trim() !== "");
  const choice = {
    catalogueIds: [...chosen.keys()].map(catalogueId),
    uploadIds: arrived.map((u) => u.id),
    byReference,
    convert: convert && foreign > 0,
    track: isPlaced ? track.trim() : null,
    atSeconds: isPlaced ? (position ?? 0) : 0,
  };
  const any = choice.catalogueIds.length + choice.uploadIds.length > 0;
  const planned = usePlanned(
    "import",
    any && isSure && !isArriving && (typedAt !== null || !isPlaced || free !== undefined) ? choice : null,
    [session.id, session.documentChanged],
    (choice, signal) =>
      answer(
        api.POST("/api/sessions/{id}/import/plan", { params: { path: { id: session.id } }, body: choice, signal }),
      ),
    run,
  );
  // What came in is no longer waiting to come in.
  const isIn = run.job?.state === "Done" && run.job.kind === "Import";
  const clearArrived = useEffectEvent(() => uploads.clear());
  useEffect(() => {
    if (isIn) clearArrived();
  }, [isIn]);
  const change =
    <T,>(set: (value: T) => void) =>
    (value: T) => {
      run.moveOn();
      set(value);
    };
  const mark = (ids: readonly string[], on: boolean) => {
    const next = new Map(chosen);
    for (const id of ids) {
      const file = on ? able.find((f) => f.id === id) : undefined;
      if (file) next.set(id, file);
      else if (!on) next.delete(id);
    }
    change(setChosenFiles)([...next.values()]);
  };
  const activeFile = rows.loaded.find((f) => f.id === active);
  return (
    <>
      <DropZone uploads={uploads} onChange={run.moveOn} />
      <WithTag tag={activeFile && <CatalogueTag file={activeFile} onClose={() => setActive(null)} />}>
        <FileList
          rows={rows}
          search={<CatalogueSearchBar search={search} onSearch={setSearch} />}
          marks={{
            able: isAble,
            has: (file) => chosen.has(file.id),
            all: able.length === 0 ? null : able.every((f) => chosen.has(f.id)),
            mark,
            markAll: (on) =>
              mark(
                able.map((f) => f.id),
                on,
              ),
          }}
          active={active}
          onActive={setActive}
          empty={
            rows.first === undefined
              ? "Looking through the catalogue."
              : Object.values(search).some((v) => v !== undefined && v !== "")
                ? "Nothing on any shelf fits. Fewer words or filters find more."
                : "The catalogue is empty. Add a shelf, or scan one."
          }
        />
      </WithTag>
      <div className={css.importWays}>
        <Choices
          label="How files come in"
          value={byReference ? "reference" : "copy"}
          onChange={change((v: string) => setByReference(v === "reference"))}
          options={[
            { value: "copy", label: "copy" },
            { value: "reference", label: "link, do not copy", disabled: arrived.length > 0 },
          ]}
        />
        <Choices
          label="Where files go"
          value={isPlaced ? "track" : "list"}
          onChange={change((v: string) => setIsPlaced(v === "track"))}
          options={[
            { value: "list", label: "add to session" },
            { value: "track", label: "place on track" },
          ]}
        />
        {isPlaced && (
          <>
            <AutoComplete
              aria-label="Track"
              value={track}
              onChange={change(setTrack)}
              status={track.trim() === "" ? "error" : ""}
              options={inventory.trackNames.map((t) => ({ value: t }))}
            />
            <span className="quiet">from</span>
            <Input
              className={`mono ${css.at}`}
              aria-label="Time on the track"
              status={position === null ? "error" : ""}
              value={at}
              onChange={(e) => change(setAt)(e.target.value)}
            />
            {typedAt !== null && proposed !== null && proposed !== typedAt && (
              <Button size="small" onClick={() => change(setAt)(null)}>
                {`Place at ${proposed}`}
              </Button>
            )}
          </>
        )}
        {foreign > 0 && sessionRate !== null && !byReference && (
          <Checkbox checked={convert} onChange={(e) => change(setConvert)(e.target.checked)}>
            {`${count(foreign, "file")} at another rate: add a copy at ${rate(sessionRate)}`}
          </Checkbox>
        )}
        {chosen.size > 0 && (
          <Button size="small" type="text" onClick={() => change(setChosenFiles)([])}>
            {`Clear selection (${number(chosen.size)})`}
          </Button>
        )}
      </div>
      <PlanTray
        run={run}
        planned={planned}
        drafts={["import chosen", "import at"]}
        applyWord={byReference ? "Link" : "Copy in"}
        idle={
          isArriving
            ? "Files are still arriving."
            : any
              ? "Give the track a name, and the time as m:ss."
              : "Mark files to copy in, or drop them here from your computer. Space plays the chosen one."
        }
        after={<Link to={`/sessions/${session.id}/set-up`}>To the session</Link>}
      />
    </>
  );
}

interface DropProps {
  uploads: ReturnType<typeof useUploads>;
  onChange: () => void;
}

/** Where files from the user's own computer are dropped, with those that arrive. */
function DropZone({ uploads, onChange }: DropProps) {
  const input = useRef<HTMLInputElement>(null);
  const take = (files: FileList | null) => {
    onChange();
    uploads.add(files ? [...files] : []);
  };
  return (
    <section className={css.dropZone} aria-label="Files from your computer">
      <span>Drop files or folders from your computer anywhere, or</span>
      <Button size="small" onClick={() => input.current?.click()}>
        Choose files
      </Button>
      <input
        ref={input}
        type="file"
        multiple
        hidden
        aria-label="Files to copy in"
        onChange={(e) => {
          take(e.target.files);
          e.target.value = "";
        }}
      />
      <ul>
        {uploads.arriving.map((a) => (
          <ArrivingFile
            key={a.key}
            file={a}
            onRemove={() => {
              onChange();
              uploads.remove(a.key);
            }}
          />
        ))}
      </ul>
    </section>
  );
}

function ArrivingFile({ file, onRemove }: { file: Arriving; onRemove: () => void }) {
  return (
    <li>
      <strong>{file.upload?.name ?? file.name}</strong>
      {file.error ? (
        <span className="trouble" role="alert">
          {file.error}
        </span>
      ) : file.upload ? (
        <span className="mono quiet">{size(file.bytes)}</span>
      ) : (
        <Progress size="small" percent={Math.floor((100 * file.sent) / Math.max(1, file.bytes))} />
      )}
      <Button size="small" type="text" onClick={onRemove} aria-label={`Leave out ${file.name}`}>
        {file.upload || file.error ? "Leave out" : "Stop"}
      </Button>
    </li>
  );
}
