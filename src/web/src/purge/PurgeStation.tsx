import { Alert, Button } from "antd";
import { Sheets } from "../frame/Choices";
import { useDraft, useRemembered } from "../frame/kept";
import { Page } from "../frame/Page";
import { Remarks } from "../frame/Remarks";
import { useWork } from "../jobs/useWork";
import { WorkGoes } from "../jobs/WorkGoes";
import type { StationProps } from "../plans/stationProps";
import { count, size } from "../words";
import { HeldFiles } from "./HeldFiles";
import { usePurge } from "./queries";
import { TrimFiles } from "./TrimFiles";
import { WhatCouldGo } from "./WhatCouldGo";

type Sheet = "go" | "held" | "trim";

/** Shows what is dead weight and why, lets it go without fear, and holds what went. */
export function PurgeStation(props: StationProps) {
  const { inventory, run } = props;
  const [sheet, setSheet] = useDraft<Sheet>("purge sheet", "go");
  const [counting, setCounting] = useRemembered("purge counting", {
    olderVersions: true,
    otherSessions: true,
    keptSaves: true,
  });
  const purge = usePurge(inventory.session.id, counting);
  const looking = useWork((j) => j.work === "Look" && j.sessionId === inventory.session.id);
  const info = purge.data;
  const held = info ? info.heldFiles + info.heldFolders : 0;
  return (
    <Page
      title="Purge"
      about={
        <>
          <Sheets<Sheet>
            label="What to look at"
            value={sheet}
            onChange={(next) => {
              run.moveOn();
              setSheet(next);
            }}
            options={[
              { value: "go", label: "What could go" },
              { value: "held", label: held > 0 ? `Set aside (${held})` : "Set aside" },
              { value: "trim", label: "Trim" },
            ]}
          />
          <p className="quiet" role="status">
            {!info
              ? purge.isPending && "Looking at what uses what."
              : sheet === "go"
                ? info.sentence
                : sheet === "trim"
                  ? "Cuts files to the parts that clips play. What is struck goes, what is hatched is handle."
                  : held === 0
                    ? "Nothing is set aside."
                    : `${count(info.heldFiles, "file")}, ${size(info.heldBytes)}, held in the session's folder, out of every document.`}
          </p>
        </>
      }
    >
      <Remarks remarks={inventory.remarks} />
      {purge.isPending && <WorkGoes work={looking} of="kept save" word="Stop" />}
      {purge.error && !info && (
        <Alert
          type="error"
          title={purge.error.message}
          action={<Button onClick={() => purge.refetch()}>Look again</Button>}
        />
      )}
      {info?.refusal && (
        <p className="trouble" role="alert">
          {info.refusal}
        </p>
      )}
      {info &&
        (sheet === "go" ? (
          <WhatCouldGo {...props} info={info} counting={counting} onCounting={setCounting} />
        ) : sheet === "held" ? (
          <HeldFiles {...props} info={info} />
        ) : (
          <TrimFiles {...props} />
        ))}
    </Page>
  );
}
