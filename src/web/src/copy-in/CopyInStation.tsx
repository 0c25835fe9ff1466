import { useQuery } from "@tanstack/react-query";
import { Checkbox, Segmented } from "antd";
import { useMemo, useState } from "react";
import { Link } from "react-router";
import { answer, api } from "../api/client";
import { useChangeCopyInWay, useCopyInWay, useMarkForCopyIn } from "../api/queries";
import type { FileEntry } from "../api/types";
import { FileList } from "../files/FileList";
import { FileTag } from "../files/FileTag";
import { PlanTray } from "../plans/PlanTray";
import type { StationProps } from "../session/SessionPage";
import { useSegment } from "../session/useSegment";
import { Weighbridge } from "../weighbridge/Weighbridge";
import { ImportPanel } from "./ImportPanel";
import { OriginGroups, originGroups } from "./OriginGroups";
import "./copy-in.css";

const isOutside = (file: FileEntry) => file.standing === "Outside";

/** Brings files into the session folder: those that stand outside already, and new ones. */
export function CopyInStation(props: StationProps) {
  const [isImport, setIsImport] = useState(false);
  const { inventory, run } = props;
  return (
    <main className="station">
      <div className="station-head">
        <h1>Copy in</h1>
        <Segmented
          aria-label="What to bring in"
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
            ? "Find it on any shelf, hear it, and take it in. Originals are left alone."
            : "What stands outside goes silent when its drive leaves. Originals are left alone."}
        </p>
      </div>
      {inventory.remarks.map((remark) => (
        <p className="warning" key={remark}>
          {remark}
        </p>
      ))}
      {isImport ? <ImportPanel {...props} /> : <OutsideFiles {...props} />}
    </main>
  );
}

/** Files that the session points at, and that stand outside. All of them are taken unless left out by a mark. */
function OutsideFiles({ inventory, run }: StationProps) {
  const { session } = inventory;
  const view = useSegment(inventory);
  const [place, setPlace] = useState<string | null>(null);
  const way = useCopyInWay(session.id);
  const changeWay = useChangeCopyInWay(session.id);
  const marking = useMarkForCopyIn(session.id);
  const groups = useMemo(() => originGroups(inventory.files), [inventory.files]);
  const outside = useMemo(() => inventory.files.filter(isOutside), [inventory.files]);
  const counted = way.data?.olderDocuments === false ? outside.filter((f) => f.use !== "OlderOnly") : outside;
  const taken = counted.filter((f) => !f.leftOut).map((f) => f.id);
  const older = session.olderDocuments;
  const signature = outside.map((f) => `${f.id} ${f.changed}`).join("|");
  const plan = useQuery({
    queryKey: ["plan", "copy-in", session.id, taken.join(), signature, way.data?.olderDocuments],
    enabled:
      taken.length > 0 && run.job === null && way.data !== undefined && !marking.isPending && !changeWay.isPending,
    gcTime: 0,
    staleTime: 60_000,
    queryFn: () => answer(api.POST("/api/sessions/{id}/copy-in/plan", { params: { path: { id: session.id } } })),
  });
  const mark = (files: readonly FileEntry[], isTaken: boolean, of: string | null) => {
    run.moveOn();
    marking.mutate({ place: of, fileIds: files.map((f) => f.id), taken: isTaken });
  };
  const shown = place === null ? view.files : view.files.filter((f) => f.origin?.place === place);
  return (
    <>
      <Weighbridge weights={session.weights} chosen={view.segment} onChoose={view.setSegment} />
      <OriginGroups
        groups={groups}
        chosen={place}
        onChoose={setPlace}
        onMark={(group, isTaken) => mark(group.files, isTaken, group.origin.place)}
      />
      <div className="copy-in-ways">
        {way.data && (
          <>
            {older > 0 && (
              <Checkbox
                checked={way.data.olderDocuments}
                onChange={(e) => changeWay.mutate({ ...way.data, olderDocuments: e.target.checked })}
              >
                Older versions count too
              </Checkbox>
            )}
            <Checkbox
              checked={way.data.byItself}
              onChange={(e) => changeWay.mutate({ ...way.data, byItself: e.target.checked })}
            >
              Copy in by itself when the document is saved
            </Checkbox>
          </>
        )}
        <a className="report" href={`/api/sessions/${session.id}/inventory.csv`} download>
          Inventory as CSV
        </a>
      </div>
      <div className="with-tag">
        <FileList
          files={shown}
          marked={new Set(taken)}
          onMark={(ids) => {
            const changed = outside.filter((f) => ids.has(f.id) === f.leftOut);
            const [added, removed] = [changed.filter((f) => ids.has(f.id)), changed.filter((f) => !ids.has(f.id))];
            if (added.length > 0) mark(added, true, null);
            if (removed.length > 0) mark(removed, false, null);
          }}
          markable={(f) => isOutside(f) && (f.use !== "OlderOnly" || way.data?.olderDocuments !== false)}
          active={view.active}
          onActive={view.setActive}
          empty="No media files here yet."
        />
        {view.activeFile && <FileTag file={view.activeFile} onClose={() => view.setActive(null)} />}
      </div>
      <PlanTray
        run={run}
        plan={taken.length > 0 ? (plan.data ?? null) : null}
        planning={plan.isFetching}
        error={plan.error?.message ?? marking.error?.message ?? changeWay.error?.message ?? null}
        applyWord="Copy in"
        idle={
          outside.length === 0
            ? "Nothing stands outside. This station has nothing to do."
            : "Every file outside is left out. Mark the ones to copy in."
        }
        after={<Link to={`/sessions/${session.id}/bundle`}>To the bundle</Link>}
      />
    </>
  );
}
