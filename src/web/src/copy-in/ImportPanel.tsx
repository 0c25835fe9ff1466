import { useQuery } from "@tanstack/react-query";
import { AutoComplete, Button, Checkbox, Input, Progress, Segmented } from "antd";
import { useEffect, useEffectEvent, useRef, useState } from "react";
import { Link } from "react-router";
import { answer, api } from "../api/client";
import { everything } from "../api/queries";
import type { FileEntry } from "../api/types";
import { catalogueList } from "../files/columns";
import { FileList } from "../files/FileList";
import { CatalogueTag } from "../files/FileTag";
import { catalogueId } from "../listening/mediaSource";
import { PlanTray } from "../plans/PlanTray";
import type { StationProps } from "../session/SessionPage";
import { count, parsePosition, rate, size } from "../words";
import { CatalogueSearchBar } from "./CatalogueSearchBar";
import { useCatalogueFiles } from "./useCatalogueFiles";
import { type Arriving, useUploads } from "./useUploads";

/** Finds samples and other media on all shelves, or takes them from the user's computer, and brings them into the session. */
export function ImportPanel({ inventory, run }: StationProps) {
  const { session } = inventory;
  const [search, setSearch] = useState(everything);
  const [sort, setSort] = useState(catalogueList.first);
  const rows = useCatalogueFiles(session.id, search, sort, setSort);
  const [chosen, setChosen] = useState<ReadonlyMap<string, FileEntry>>(new Map());
  const [active, setActive] = useState<string | null>(null);
  const uploads = useUploads(session.id);
  const [byReference, setByReference] = useState(inventory.settings?.copyOnImport === false);
  const [isPlaced, setIsPlaced] = useState(false);
  const [track, setTrack] = useState(inventory.trackNames[0] ?? "");
  const [at, setAt] = useState("0:00");
  const [convert, setConvert] = useState(false);
  const isAble = (file: FileEntry) => file.standing !== "Away";
  const able = rows.loaded.filter(isAble);

  const arrived = uploads.arriving.flatMap((a) => (a.upload ? [a.upload] : []));
  const isArriving = uploads.arriving.some((a) => !a.upload && !a.error);
  const sessionRate = session.sampleRate;
  const foreign = [...chosen.values(), ...arrived].filter(
    (f) => f.sampleRate !== null && sessionRate !== null && f.sampleRate !== sessionRate,
  ).length;
  const position = parsePosition(at);
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
  const plan = useQuery({
    queryKey: ["plan", "import", session.id, choice, session.documentChanged],
    enabled: any && isSure && !isArriving && run.job === null,
    gcTime: 0,
    staleTime: 60_000,
    queryFn: () =>
      answer(api.POST("/api/sessions/{id}/import/plan", { params: { path: { id: session.id } }, body: choice })),
  });
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
    change(setChosen)(next);
  };
  const activeFile = rows.loaded.find((f) => f.id === active);
  return (
    <>
      <DropZone uploads={uploads} onChange={run.moveOn} />
      <div className="with-tag">
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
        {activeFile && <CatalogueTag file={activeFile} onClose={() => setActive(null)} />}
      </div>
      <div className="import-ways">
        <Segmented
          aria-label="How files come in"
          value={byReference ? "reference" : "copy"}
          onChange={change((v: string) => setByReference(v === "reference"))}
          options={[
            { value: "copy", label: "copied in" },
            { value: "reference", label: "pointed at, not copied", disabled: arrived.length > 0 },
          ]}
        />
        <Segmented
          aria-label="Where files go"
          value={isPlaced ? "track" : "list"}
          onChange={change((v: string) => setIsPlaced(v === "track"))}
          options={[
            { value: "list", label: "on the list" },
            { value: "track", label: "on a track" },
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
              className="mono at"
              aria-label="Time on the track"
              status={position === null ? "error" : ""}
              value={at}
              onChange={(e) => change(setAt)(e.target.value)}
            />
          </>
        )}
        {foreign > 0 && sessionRate !== null && !byReference && (
          <Checkbox checked={convert} onChange={(e) => change(setConvert)(e.target.checked)}>
            {`${count(foreign, "file")} at another rate: add a copy at ${rate(sessionRate)}`}
          </Checkbox>
        )}
        {chosen.size > 0 && (
          <Button size="small" type="text" onClick={() => change(setChosen)(new Map())}>
            {`Let go of ${count(chosen.size, "chosen file")}`}
          </Button>
        )}
      </div>
      <PlanTray
        run={run}
        plan={any && isSure ? (plan.data ?? null) : null}
        planning={plan.isFetching}
        error={plan.error?.message ?? null}
        applyWord={byReference ? "Point at them" : "Take in"}
        idle={
          isArriving
            ? "Files are still arriving."
            : any
              ? "Give the track a name, and the time as m:ss."
              : "Mark files to take in, or drop them here from your computer. Space plays the chosen one."
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
  const [isOver, setIsOver] = useState(false);
  const input = useRef<HTMLInputElement>(null);
  const take = (files: FileList | null) => {
    onChange();
    uploads.add(files ? [...files] : []);
  };
  const onDrop = useEffectEvent((e: DragEvent) => {
    setIsOver(false);
    take(e.dataTransfer?.files ?? null);
  });
  // Wherever on the page they are dropped: nobody aims at a strip.
  useEffect(() => {
    const drop = (e: DragEvent) => onDrop(e);
    const over = () => setIsOver(true);
    const leave = (e: DragEvent) => e.relatedTarget === null && setIsOver(false);
    window.addEventListener("drop", drop);
    window.addEventListener("dragover", over);
    window.addEventListener("dragleave", leave);
    return () => {
      window.removeEventListener("drop", drop);
      window.removeEventListener("dragover", over);
      window.removeEventListener("dragleave", leave);
    };
  }, []);
  return (
    <section className={`drop-zone ${isOver ? "over" : ""}`} aria-label="Files from your computer">
      <span>Drop files from your computer here, or</span>
      <Button size="small" onClick={() => input.current?.click()}>
        Choose files
      </Button>
      <input
        ref={input}
        type="file"
        multiple
        hidden
        aria-label="Files to take in"
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
