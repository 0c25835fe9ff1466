import { useState } from "react";
import { answer, api } from "../api/client";
import { type Part, useParts } from "../api/parts";
import { keys } from "../api/queries";
import type { Backups, FileEntry, SafeFile } from "../api/types";
import { bytes, type ListKind, seconds } from "../files/columns";
import { FileList } from "../files/FileList";
import { WithTag } from "../files/FilesWithTag";
import { ActiveFile } from "../files/FileTag";
import { inFixedOrder } from "../files/fixedOrder";
import type { FileRows } from "../files/useFiles";
import { Choices } from "../frame/Choices";
import { useDraft } from "../frame/kept";
import type { StationProps } from "../plans/stationProps";
import { count, size, standingWord } from "../words";
import { BackUpNow } from "./BackUpNow";
import css from "./backups.module.css";
import { useFileHistory } from "./queries";

interface SafeRow extends FileEntry {
  safe: SafeFile;
}

const safeOf = (file: FileEntry) => (file as SafeRow).safe;

/** What cannot be reached where it should stand: then a vault that holds it is the way back. */
const lost = ({ file }: SafeFile) => file.standing === "Missing" || file.standing === "Away";

const placesWord = (safe: SafeFile) =>
  lost(safe)
    ? `${standingWord[safe.file.standing]}; ${safe.vaults.length > 0 ? `${safe.vaults.join(", ")} holds it` : "no vault holds it"}`
    : safe.copies <= 1
      ? "only here"
      : safe.places <= 1
        ? `${safe.copies} copies on one drive: here, ${safe.vaults.join(", ")}`
        : `${safe.places}: here, ${safe.vaults.join(", ")}${safe.isAwayFromHouse ? " (away from the house)" : ""}`;

const safeList: ListKind = {
  name: "safe",
  of: "All",
  first: { column: "places", down: false },
  columns: [
    { key: "name", width: "minmax(140px, 2fr)", title: "File", cell: (f) => f.name, hint: (f) => f.shownPath },
    {
      key: "places",
      width: "minmax(140px, 1.4fr)",
      title: "Verified places",
      cell: (f) =>
        !lost(safeOf(f)) && safeOf(f).places <= 1 ? (
          <strong className="trouble">{placesWord(safeOf(f))}</strong>
        ) : (
          placesWord(safeOf(f))
        ),
      hint: (f) => placesWord(safeOf(f)),
    },
    seconds,
    bytes,
  ],
  groupings: [],
};

interface SafePart extends Part<FileEntry> {
  files: readonly SafeRow[];
}

function useSafeRows(id: string, onlyShort: boolean): FileRows {
  const parts = useParts<SafePart, FileEntry>(
    [...keys.session(id), "backups", "safety", String(onlyShort)],
    async (skip, take, signal) => {
      const part = await answer(
        api.GET("/api/sessions/{id}/backups/safety", {
          params: { path: { id }, query: { onlyShort, skip, take } },
          signal,
        }),
      );
      return { total: part.total, files: part.files.map((safe) => ({ ...safe.file, safe })) };
    },
  );
  return inFixedOrder(parts, safeList);
}

type Shown = "short" | "all";

/** For every file the number of verified places that hold it; "only here" is the word that alarms. */
export function HowSafe({ inventory, backups }: StationProps & { backups: Backups }) {
  const id = inventory.session.id;
  const [shown, setShown] = useDraft<Shown>("backups safe shown", "short");
  const rows = useSafeRows(id, shown === "short");
  const [active, setActive] = useState<string | null>(null);
  const history = useFileHistory(id, active ?? undefined);
  const { safety } = backups.status;
  const row = rows.loaded.find((f) => f.id === active);
  return (
    <>
      <BackUpNow id={id} backups={backups} />
      {safety && (
        <dl className={css.tally}>
          {safety.lost > 0 && (
            <div data-worry>
              <dt>Missing, in no backup</dt>
              <dd>{count(safety.lost, "file")}</dd>
            </div>
          )}
          <div data-worry={safety.onlyHere.files > 0}>
            <dt>Only here</dt>
            <dd>
              {count(safety.onlyHere.files, "file")} <span className="mono">{size(safety.onlyHere.bytes)}</span>
            </dd>
          </div>
          {safety.onOneDrive.files > 0 && (
            <div data-worry={safety.wanted > 1}>
              <dt>On one drive only, backup and all</dt>
              <dd>
                {count(safety.onOneDrive.files, "file")} <span className="mono">{size(safety.onOneDrive.bytes)}</span>
              </dd>
            </div>
          )}
          <div>
            <dt>In {safety.wanted} places or more</dt>
            <dd>
              {count(safety.safe.files, "file")} <span className="mono">{size(safety.safe.bytes)}</span>
            </dd>
          </div>
          <div>
            <dt>Away from the house as well</dt>
            <dd>{count(safety.awayFromHouse, "file")}</dd>
          </div>
        </dl>
      )}
      <div className={css.bar}>
        <Choices<Shown>
          label="Which files"
          value={shown}
          onChange={setShown}
          options={[
            { value: "short", label: `In fewer than ${safety?.wanted ?? 2} places` },
            { value: "all", label: "All files" },
          ]}
        />
      </div>
      <WithTag
        tag={
          row ? (
            <div className={css.safeTag}>
              <p className={css.history} role="status">
                {history.data?.sentence ?? history.error?.message ?? "Asking all versions."}
              </p>
              <ActiveFile rows={{ loaded: rows.loaded, active, setActive }} />
            </div>
          ) : null
        }
      >
        <FileList
          rows={rows}
          marks={null}
          active={active}
          onActive={setActive}
          empty={
            shown === "short"
              ? "Every file is in as many places as you want."
              : "No media yet. What you record or copy in is counted here."
          }
        />
      </WithTag>
    </>
  );
}
