import { Checkbox, Input, InputNumber } from "antd";
import { useState } from "react";
import { answer, api } from "../api/client";
import { type Part, useParts } from "../api/parts";
import { keys, useShelves } from "../api/queries";
import type { FileEntry, LeftWhole, TrimFile, TrimPieces } from "../api/types";
import { type ListKind, name, seconds } from "../files/columns";
import { FileList } from "../files/FileList";
import { WithTag } from "../files/FilesWithTag";
import { ActiveFile } from "../files/FileTag";
import filesCss from "../files/files.module.css";
import { inFixedOrder } from "../files/fixedOrder";
import { Choices } from "../frame/Choices";
import { Field } from "../frame/Field";
import { useDraft, useRemembered } from "../frame/kept";
import { CoverageStrip, type TrimmableFile } from "../listening/CoverageStrip";
import { PlanTray } from "../plans/PlanTray";
import type { StationProps } from "../plans/stationProps";
import { usePlanned } from "../plans/usePlanned";
import { type FolderChoice, FolderPicker } from "../shelves/FolderPicker";
import { size } from "../words";
import css from "./purge.module.css";

interface TrimRow extends TrimmableFile {
  trim: TrimFile;
}

const trimOf = (file: FileEntry) => (file as TrimRow).trim;

const leftWords: Record<LeftWhole, string> = {
  No: "",
  AllInUse: "in use, or within its handles",
  Format: "left whole: the format cannot be cut",
  NotKnown: "left whole: not known to the sample",
  Shared: "left whole: other sessions use it",
  KeptSave: "left whole: kept saves play it",
};

const trimList: ListKind = {
  name: "trim",
  of: "All",
  first: { column: "after", down: true },
  columns: [
    name,
    { key: "coverage", width: "minmax(200px, 2fr)", title: "What stays", cell: (f) => <CoverageStrip file={f} /> },
    { ...seconds, givesWay: true },
    { key: "before", width: "72px", title: "Size", className: filesCss.cNum, cell: (f) => size(f.bytes) },
    {
      key: "after",
      width: "minmax(150px, 1fr)",
      title: "Then",
      className: filesCss.cNum,
      cell: (f) => (trimOf(f).left === "No" ? size(trimOf(f).bytesAfter) : leftWords[trimOf(f).left]),
      hint: (f) => leftWords[trimOf(f).left],
    },
  ],
  groupings: [],
};

/** Handles and gaps, in seconds. */
const lengths = { min: 0, max: 3600, step: 0.5 };

interface TrimPart extends Part<FileEntry> {
  files: readonly TrimRow[];
  trimmed: number;
  bytes: number;
  bytesAfter: number;
}

interface How {
  handle: number;
  join: number;
  pieces: TrimPieces;
  olderVersions: boolean;
  keptSaves: boolean;
  inPlace: boolean;
}

function useTrimRows(id: string, how: How) {
  const parts = useParts<TrimPart, FileEntry>([...keys.files(id), "trim", how], async (skip, take, signal) => {
    const part = await answer(
      api.GET("/api/sessions/{id}/purge/trim", { params: { path: { id }, query: { ...how, skip, take } }, signal }),
    );
    return {
      ...part,
      files: part.files.map((trim) => ({
        ...trim.file,
        used: trim.used,
        ...(trim.left === "No" && { kept: trim.kept }),
        trim,
      })),
    };
  });
  return { rows: inFixedOrder(parts, trimList), first: parts.first };
}

/** Cuts files to the parts that documents use, with handles: what goes and what stays is drawn before anything happens. */
export function TrimFiles({ inventory, run }: StationProps) {
  const { session } = inventory;
  const shelves = useShelves();
  const [handle, setHandle] = useRemembered("trim handle", 2);
  const [join, setJoin] = useRemembered("trim join", 1);
  const [pieces, setPieces] = useRemembered<TrimPieces>("trim pieces", "OneFile");
  const [older, setOlder] = useRemembered("trim older versions", true);
  const [saves, setSaves] = useDraft("trim kept saves", true);
  // In place is asked for anew each time: what is cut there is gone from the session once it is emptied.
  const [inPlace, setInPlace] = useDraft("trim in place", false);
  const [place, setPlace] = useDraft<FolderChoice>("trim place", { shelfId: undefined, path: "" });
  const [copyName, setCopyName] = useDraft("trim name", `${session.name} trimmed`);
  const [whole, setWhole] = useDraft<readonly string[]>("trim whole", []);
  const [active, setActive] = useState<string | null>(null);
  const outbox = shelves.data?.find((s) => s.kind === "Outbox" && s.connected);
  const into = place.shelfId ? place : { shelfId: outbox?.id, path: "" };
  const how: How = { handle, join, pieces, olderVersions: older, keptSaves: saves, inPlace };
  const { rows, first } = useTrimRows(session.id, how);
  const changed =
    <T,>(set: (value: T) => void) =>
    (value: T) => {
      run.moveOn();
      set(value);
    };
  const target = inPlace ? { shelfId: null, path: null, name: null } : { ...into, name: copyName };
  const isReady = first !== undefined && first.trimmed > 0 && (inPlace || (into.shelfId && copyName.trim() !== ""));
  const planned = usePlanned(
    "trim",
    isReady ? { how, except: whole, ...target } : null,
    [session.id, inventory.fingerprint],
    (body, signal) =>
      answer(
        api.POST("/api/sessions/{id}/purge/trim/plan", {
          params: { path: { id: session.id } },
          body: {
            how: body.how,
            except: [...body.except],
            shelfId: body.shelfId ?? null,
            path: body.path,
            name: body.name,
          },
          signal,
        }),
      ),
    run,
  );
  const able = (file: FileEntry) => trimOf(file).left === "No";
  const markable = rows.loaded.filter(able);
  const mark = (ids: readonly string[], on: boolean) =>
    changed(setWhole)(on ? whole.filter((w) => !ids.includes(w)) : [...new Set([...whole, ...ids])]);
  return (
    <>
      <div className={css.trim}>
        <div className={css.trimFields}>
          <Field label="Handles (seconds)">
            {(id) => (
              <InputNumber id={id} {...lengths} value={handle} onChange={(v) => v !== null && changed(setHandle)(v)} />
            )}
          </Field>
          <Field label="Join parts closer than (seconds)">
            {(id) => (
              <InputNumber id={id} {...lengths} value={join} onChange={(v) => v !== null && changed(setJoin)(v)} />
            )}
          </Field>
          <Choices<TrimPieces>
            label="How many files each becomes"
            value={pieces}
            onChange={changed(setPieces)}
            options={[
              { value: "OneFile", label: "one file" },
              { value: "OnePerPart", label: "one file for each part" },
            ]}
          />
          {session.olderDocuments > 0 && (
            <Checkbox checked={older} onChange={(e) => changed(setOlder)(e.target.checked)}>
              Protect what older versions use
            </Checkbox>
          )}
          {inPlace && (
            <Checkbox checked={saves} onChange={(e) => changed(setSaves)(e.target.checked)}>
              Protect what kept saves use
            </Checkbox>
          )}
          <Choices<"copy" | "place">
            label="Where it is trimmed"
            value={inPlace ? "place" : "copy"}
            onChange={(w) => changed(setInPlace)(w === "place")}
            options={[
              { value: "copy", label: "in a copy elsewhere" },
              { value: "place", label: "in place" },
            ]}
          />
          <span className="quiet">
            {inPlace
              ? "The originals are set aside. Once they are emptied, nothing brings back what was cut."
              : "This session is left as it is."}
          </span>
        </div>
        {!inPlace && (
          <div className={css.trimPlace}>
            <FolderPicker label="Put the copy in" value={into} onChange={changed(setPlace)} />
            <Field label="Name of its folder">
              {(id) => (
                <Input
                  id={id}
                  maxLength={200}
                  value={copyName}
                  onChange={(e) => changed(setCopyName)(e.target.value)}
                />
              )}
            </Field>
          </div>
        )}
      </div>
      {first && (
        <p className="quiet" role="status">
          {first.total === 0
            ? "No clip plays a file of this session."
            : `${first.trimmed} of ${first.total} files that clips play can be trimmed: ${size(first.bytes)} become ${size(first.bytesAfter)}.`}
        </p>
      )}
      <WithTag tag={<ActiveFile rows={{ loaded: rows.loaded, active, setActive }} />}>
        <FileList
          rows={rows}
          marks={{
            able,
            has: (file) => able(file) && !whole.includes(file.id),
            all: markable.length === 0 ? null : markable.every((f) => !whole.includes(f.id)),
            mark,
            markAll: async (on) => mark(await rows.ids(0, rows.total - 1), on),
          }}
          active={active}
          onActive={setActive}
          empty="No clip plays a file of this session."
        />
      </WithTag>
      <PlanTray
        run={run}
        planned={planned}
        drafts={["trim in place", "trim whole", "trim kept saves"]}
        applyWord={inPlace ? "Trim in place" : "Make the trimmed copy"}
        idle={
          first?.trimmed === 0
            ? "Nothing can be trimmed: all of it is in use, handles counted, or left whole."
            : "Choose where the copy goes."
        }
      />
    </>
  );
}
