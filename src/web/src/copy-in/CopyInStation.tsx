import { useEffect } from "react";
import { Link } from "react-router";
import { answer, api } from "../api/client";
import { useIsConnected } from "../api/connection";
import type { CopyInMark, FileEntry, Inventory } from "../api/types";
import { fileList } from "../files/columns";
import { FilesWithTag } from "../files/FilesWithTag";
import { useFiles } from "../files/useFiles";
import { ActBox } from "../frame/ActBox";
import { Sheets } from "../frame/Choices";
import { useDraft } from "../frame/kept";
import { forgetMarks, rememberMark, showMarks } from "../frame/markHistory";
import { Page } from "../frame/Page";
import { Remarks } from "../frame/Remarks";
import { PlanTray } from "../plans/PlanTray";
import type { StationProps } from "../plans/stationProps";
import { usePlanned } from "../plans/usePlanned";
import css from "./copy-in.module.css";
import { ImportPanel } from "./ImportPanel";
import { KindGroups } from "./KindGroups";
import { OriginGroups } from "./OriginGroups";
import { useChangeCopyInWay, useCopyInWay, useMarkForCopyIn } from "./queries";

/** Brings files into the session folder: those that stand outside already, and new ones. */
export function CopyInStation(props: StationProps) {
  const [isImport, setIsImport] = useDraft("copy-in something new", false);
  const { inventory, run } = props;
  return (
    <Page
      title="Copy in"
      about={
        <>
          <Sheets
            label="What to bring in"
            value={isImport ? "import" : "outside"}
            onChange={(v) => {
              run.moveOn();
              setIsImport(v === "import");
            }}
            options={[
              { value: "outside", label: "What stands outside" },
              { value: "import", label: "Something new" },
            ]}
          />
          <p className="quiet">
            {isImport
              ? "Find it on any shelf, hear it, and copy it in. Takes of other sessions are found by their names."
              : "What stands outside goes silent when its drive leaves. Originals are left alone."}
          </p>
        </>
      }
    >
      <Remarks remarks={inventory.remarks} />
      {isImport ? <ImportPanel {...props} /> : <OutsideFiles {...props} />}
    </Page>
  );
}

const marks = "copy-in marks";

/** What takes a mark back; nothing where a place was taken in part before, and which part is not known here. */
function takenBack(
  { place, fileIds, taken }: CopyInMark,
  origins: Inventory["origins"],
  known: readonly FileEntry[],
): CopyInMark | null {
  if (fileIds) {
    const same = new Set(known.filter((f) => f.leftOut !== taken).map((f) => f.id));
    return { place: null, fileIds: fileIds.filter((id) => !same.has(id)), taken: !taken };
  }
  const origin = origins.find((o) => o.origin.place === place);
  const isWhole = origin && (taken ? origin.leftOut === origin.files : origin.leftOut === 0);
  return isWhole ? { place, fileIds: null, taken: !taken } : null;
}

/** Files that the session points at, and that stand outside. All of them are taken unless left out by a mark. */
function OutsideFiles({ inventory, run }: StationProps) {
  const { session } = inventory;
  const [place, setPlace] = useDraft<string | null>("copy-in place", null);
  const rows = useFiles({ kind: fileList, place, leavePlace: () => setPlace(null), marks: "CopyIn" });
  const way = useCopyInWay(session.id);
  const changeWay = useChangeCopyInWay(session.id);
  const marking = useMarkForCopyIn(session.id);
  const isConnected = useIsConnected();
  const older = session.olderDocuments;
  const isOlderCounted = way.data?.olderDocuments !== false;
  const isAble = (file: FileEntry) => file.standing === "Outside" && (file.use !== "OlderOnly" || isOlderCounted);
  const { outside } = inventory;
  const taken = outside.taken - (isOlderCounted ? 0 : outside.takenOlderOnly);
  // While marks or ways are on their way to the server, what was planned is for others.
  const isReady = way.data !== undefined && !marking.isPending && !changeWay.isPending;
  const planned = usePlanned(
    "copy-in",
    taken > 0 && isReady
      ? { olderDocuments: way.data?.olderDocuments, newVersions: way.data?.newVersions, out: way.data?.leftOutKinds }
      : null,
    [session.id, outside.fingerprint],
    (_, signal) =>
      answer(api.POST("/api/sessions/{id}/copy-in/plan", { params: { path: { id: session.id } }, signal })),
    run,
  );
  const send = (body: CopyInMark) => {
    run.moveOn();
    marking.mutate(body);
  };
  useEffect(() => showMarks(session.id, marks), [session.id]);
  const mark = (body: CopyInMark) => {
    const back = takenBack(body, inventory.origins, rows.loaded);
    if (back) rememberMark(session.id, { scope: marks, undo: () => send(back), redo: () => send(body) });
    else forgetMarks(session.id, marks);
    send(body);
  };
  return (
    <>
      <FilesWithTag
        rows={rows}
        weights={session.weights}
        marks={{
          able: (file) => isConnected && isAble(file),
          has: (file) => isAble(file) && !file.leftOut,
          all: rows.markable === 0 ? null : rows.marked === rows.markable,
          mark: (fileIds, isTaken) => mark({ place: null, fileIds: [...fileIds], taken: isTaken }),
          markAll: async (isTaken) => mark({ place: null, fileIds: [...(await rows.markableIds())], taken: isTaken }),
        }}
        empty="No media files here yet."
      >
        <OriginGroups
          origins={inventory.origins}
          chosen={place}
          onChoose={setPlace}
          onMark={(of, isTaken) => mark({ place: of, fileIds: null, taken: isTaken })}
        />
        {way.data && (
          <KindGroups
            id={session.id}
            way={way.data}
            fingerprint={outside.fingerprint}
            onChange={(w) => changeWay.mutate(w)}
          />
        )}
        <div className={css.copyInWays}>
          {way.data && (
            <>
              {older > 0 && (
                <ActBox
                  checked={way.data.olderDocuments}
                  onChange={(e) => changeWay.mutate({ ...way.data, olderDocuments: e.target.checked })}
                >
                  Copy in what older versions use too
                </ActBox>
              )}
              <ActBox
                checked={way.data.byItself}
                onChange={(e) => changeWay.mutate({ ...way.data, byItself: e.target.checked })}
              >
                Copy in automatically at every save
              </ActBox>
              {inventory.documents.some((d) => d.current && d.isText) && (
                <ActBox
                  checked={way.data.newVersions}
                  onChange={(e) => changeWay.mutate({ ...way.data, newVersions: e.target.checked })}
                >
                  Start a new version that names the copies
                </ActBox>
              )}
            </>
          )}
          <a className={css.report} href={`/api/sessions/${session.id}/inventory.csv`} download>
            Inventory as CSV
          </a>
        </div>
      </FilesWithTag>
      <PlanTray
        run={run}
        planned={taken > 0 && !isReady ? { ...planned, planning: true } : planned}
        trouble={marking.error?.message ?? changeWay.error?.message ?? null}
        drafts={[marks]}
        applyWord="Copy in"
        idle={
          outside.taken + outside.leftOut === 0
            ? "Nothing stands outside. This station has nothing to do."
            : "Every file outside is left out. Mark the ones to copy in."
        }
        after={<Link to={`/sessions/${session.id}/bundle`}>To the bundle</Link>}
      />
    </>
  );
}
