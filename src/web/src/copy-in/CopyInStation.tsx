import { useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { Link } from "react-router";
import { answer, api } from "../api/client";
import type { FileEntry } from "../api/types";
import { FileList } from "../files/FileList";
import { FileTag } from "../files/FileTag";
import { PlanTray } from "../plans/PlanTray";
import type { StationProps } from "../session/SessionPage";
import { useSegment } from "../session/useSegment";
import { Weighbridge } from "../weighbridge/Weighbridge";

const isOutside = (file: FileEntry) => file.standing === "Outside";

/** Brings files that stand outside into the session folder. All of them are taken unless left out by a mark. */
export function CopyInStation({ inventory, run }: StationProps) {
  const { session } = inventory;
  const view = useSegment(inventory);
  // What was left out is remembered, not what was taken: a file that turns up later is taken by default.
  const [leftOut, setLeftOut] = useState<ReadonlySet<string>>(new Set());
  const outside = useMemo(() => inventory.files.filter(isOutside), [inventory.files]);
  const taken = useMemo(() => outside.map((f) => f.id).filter((id) => !leftOut.has(id)), [outside, leftOut]);
  const signature = outside.map((f) => `${f.id} ${f.changed}`).join("|");
  const plan = useQuery({
    queryKey: ["plan", "copy-in", session.id, taken.join(), signature],
    enabled: taken.length > 0 && run.job === null,
    gcTime: 0,
    staleTime: 60_000,
    queryFn: () =>
      answer(
        api.POST("/api/sessions/{id}/copy-in/plan", {
          params: { path: { id: session.id } },
          body: { fileIds: taken },
        }),
      ),
  });
  return (
    <main className="station">
      <div className="station-head">
        <h1>Copy in</h1>
        <p className="quiet">
          What stands outside goes silent when its drive leaves. Copies go into the session folder; originals are left
          alone.
        </p>
      </div>
      {inventory.remarks.map((remark) => (
        <p className="warning" key={remark}>
          {remark}
        </p>
      ))}
      <Weighbridge weights={session.weights} chosen={view.segment} onChoose={view.setSegment} />
      <div className="with-tag">
        <FileList
          files={view.files}
          marked={new Set(taken)}
          onMark={(ids) => {
            run.moveOn();
            setLeftOut(new Set(outside.map((f) => f.id).filter((id) => !ids.has(id))));
          }}
          markable={isOutside}
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
        error={plan.error?.message ?? null}
        applyWord="Copy in"
        idle={
          outside.length === 0
            ? "Nothing stands outside. This station has nothing to do."
            : "Every file outside is left out. Mark the ones to copy in."
        }
        after={<Link to={`/sessions/${session.id}/bundle`}>To the bundle</Link>}
      />
    </main>
  );
}
