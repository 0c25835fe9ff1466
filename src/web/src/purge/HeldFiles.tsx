import { Checkbox } from "antd";
import { useState } from "react";
import { answer, api } from "../api/client";
import { type Part, useParts } from "../api/parts";
import { keys } from "../api/queries";
import type { FileEntry, HeldFile, PurgeInfo, Scale } from "../api/types";
import { useBackups, useBackupWork } from "../backups/queries";
import { bytes, coverage, type ListKind, seconds } from "../files/columns";
import { FileList } from "../files/FileList";
import { WithTag } from "../files/FilesWithTag";
import { ActiveFile } from "../files/FileTag";
import { inFixedOrder } from "../files/fixedOrder";
import type { FileRows } from "../files/useFiles";
import { Act } from "../frame/Act";
import { Choices } from "../frame/Choices";
import { useDraft } from "../frame/kept";
import { useTell } from "../frame/Tell";
import { CoverageStrip } from "../listening/CoverageStrip";
import { PlanTray } from "../plans/PlanTray";
import type { StationProps } from "../plans/stationProps";
import { usePlanned } from "../plans/usePlanned";
import { shortWhen } from "../words";
import css from "./purge.module.css";
import { Scales } from "./Scales";
import { groupWords } from "./words";

interface HeldRow extends FileEntry {
  held: HeldFile;
}

const heldOf = (file: FileEntry) => (file as HeldRow).held;

const heldList: ListKind = {
  name: "held",
  of: "All",
  first: { column: "when", down: true },
  columns: [
    {
      key: "name",
      width: "minmax(140px, 2fr)",
      title: "Goes back to",
      cell: (f) => heldOf(f).from,
      hint: (f) => heldOf(f).from,
    },
    {
      key: "why",
      width: "minmax(110px, 1fr)",
      title: "Set aside as",
      cell: (f) => {
        const { why } = heldOf(f);
        return why ? groupWords[why].title.toLowerCase() : "";
      },
    },
    { key: "when", width: "102px", title: "Set aside", givesWay: true, cell: (f) => shortWhen(heldOf(f).setAside) },
    { ...coverage, givesWay: true, cell: (f) => <CoverageStrip file={asFile(f)} /> },
    seconds,
    bytes,
  ],
  groupings: [],
};

interface HeldPart extends Part<FileEntry> {
  files: readonly HeldRow[];
}

function useHeldRows(id: string): FileRows {
  const parts = useParts<HeldPart, FileEntry>([...keys.files(id), "held"], async (skip, take, signal) => {
    const part = await answer(
      api.GET("/api/sessions/{id}/purge/held", { params: { path: { id }, query: { skip, take } }, signal }),
    );
    return { total: part.total, files: part.files.map((held) => ({ ...held.file, id: held.held, held })) };
  });
  return inFixedOrder(parts, heldList);
}

type Way = "back" | "empty";

/** What is set aside: a crate of its own, with put back and empty. */
export function HeldFiles({ inventory, run, info }: StationProps & { info: PurgeInfo }) {
  const id = inventory.session.id;
  const rows = useHeldRows(id);
  const [active, setActive] = useState<string | null>(null);
  const [way, setWay] = useDraft<Way>("held way", "back");
  // What is left as it is; all else is chosen, since mostly all of it goes one way.
  const [left, setLeft] = useDraft<readonly string[]>("held left", []);
  const [byContent, setByContent] = useDraft("held by content", false);
  const held = info.heldFiles + info.heldFolders;
  const chosen = held - left.length;
  const choose = (next: readonly string[]) => {
    run.moveOn();
    setLeft(next);
  };
  const planned = usePlanned(
    `held ${way}`,
    chosen > 0 && rows.first ? { left, byContent } : null,
    [id, info.revision, inventory.session.backup?.lastFull],
    async (body, signal) => {
      const chosenHeld =
        body.left.length === 0 ? null : (await rows.ids(0, rows.total - 1)).filter((h) => !body.left.includes(h));
      const options = { params: { path: { id } }, body: { held: chosenHeld, byContent: body.byContent }, signal };
      return answer(
        way === "back"
          ? api.POST("/api/sessions/{id}/purge/put-back/plan", options)
          : api.POST("/api/sessions/{id}/purge/empty/plan", options),
      );
    },
    run,
  );
  const isChosen = (file: FileEntry) => !left.includes(file.id);
  const row = run.job === null ? rows.loaded.find((f) => f.id === active) : undefined;
  return (
    <>
      <Scales
        now={info.weights}
        {...(way === "empty" && { after: left.length === 0 ? emptied(info.weights) : null })}
      />
      <div className={css.ways}>
        <Choices<Way>
          label="What becomes of it"
          value={way}
          onChange={(next) => {
            run.moveOn();
            setWay(next);
          }}
          options={[
            { value: "back", label: "Put back" },
            { value: "empty", label: "Empty" },
          ]}
        />
        <span className="quiet">
          {way === "back"
            ? "back to the place that each came from, and onto the lists that it stood on."
            : "deleted for good. It cannot be undone."}
        </span>
        {way === "empty" && (
          <Checkbox
            checked={byContent}
            onChange={(e) => {
              run.moveOn();
              setByContent(e.target.checked);
            }}
          >
            Check every byte of the copies in backups (slower)
          </Checkbox>
        )}
      </div>
      <WithTag
        tag={
          row ? <ActiveFile rows={{ loaded: rows.loaded.map(asFile), active: heldOf(row).file.id, setActive }} /> : null
        }
      >
        <FileList
          rows={rows}
          marks={{
            able: () => true,
            has: isChosen,
            all: held === 0 ? null : left.length === 0,
            mark: (ids, on) => choose(on ? left.filter((l) => !ids.includes(l)) : [...new Set([...left, ...ids])]),
            markAll: async (on) => choose(on ? [] : await rows.ids(0, rows.total - 1)),
          }}
          active={active}
          onActive={setActive}
          sound={asFile}
          empty="Nothing is set aside. What you set aside is held here until you put it back or empty it."
        />
      </WithTag>
      <PlanTray
        run={run}
        planned={planned}
        drafts={["held left"]}
        applyWord={way === "back" ? "Put back" : "Delete for good"}
        offer={way === "empty" && chosen > 0 ? <FullBackupFirst id={id} /> : null}
        idle={held === 0 ? "Nothing is set aside." : "Mark what is to go back, or for good."}
      />
    </>
  );
}

/** Before anything is deleted for good, a full backup takes it along. */
function FullBackupFirst({ id }: { id: string }) {
  const backups = useBackups(id);
  const { full } = useBackupWork(id);
  const tell = useTell();
  const vault = backups.data?.vaults.find((v) => v.connected);
  if (!vault) return null;
  return (
    <Act
      loading={full.isPending}
      onClick={() =>
        full.mutate(
          { vaultId: vault.id, note: "before emptying", byContent: false },
          { onError: (e) => tell.error(e.message) },
        )
      }
    >
      Full backup first
    </Act>
  );
}

/** What is left once all that is held is gone. */
const emptied = ({ weights, otherBytes, total }: Scale): Scale => ({
  weights: weights.filter((w) => w.use !== "SetAside"),
  otherBytes,
  total: total - weights.filter((w) => w.use === "SetAside").reduce((sum, w) => sum + w.bytes, 0),
});

/** The file itself, by its identity in the session. */
const asFile = (file: FileEntry): FileEntry => heldOf(file).file;
