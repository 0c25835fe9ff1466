import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { useEffect, useEffectEvent, useState } from "react";
import { answer, api } from "../api/client";
import { useRecord, useRecording } from "../api/queries";
import type { FileEntry, Inventory, RecordInfo } from "../api/types";
import { OutsideNotice } from "../copy-in/OutsideNotice";
import { takeList } from "../files/columns";
import { FileList } from "../files/FileList";
import { FileTag } from "../files/FileTag";
import { PlanTray } from "../plans/PlanTray";
import type { StationProps } from "../session/SessionPage";
import { count } from "../words";
import { RecorderPanel } from "./RecorderPanel";
import { useRecordChoices } from "./useRecordChoices";
import "./record.css";

type Task = "takes" | "repair" | "mirror";

const applyWord: Record<Task, string> = {
  takes: "Put on the list",
  repair: "Repair on copies",
  mirror: "Copy to the mirror",
};

/** The task that comes first when nobody has chosen one. */
function firstTask(info: RecordInfo): Task | null {
  if (info.cutOff > 0) return "repair";
  if (info.waiting > 0) return "takes";
  return (info.mirror?.gaps.length ?? 0) > 0 && info.mirror?.connected ? "mirror" : null;
}

/** Arms tracks, records, and looks after what was recorded, by our recorder or by any other program. */
export function RecordStation({ inventory, run }: StationProps) {
  const { session } = inventory;
  const choices = useRecordChoices(session.id);
  const record = useRecord(session.id, choices.armed.length);
  const recording = useRecording().data ?? null;
  const [active, setActive] = useState<string | null>(null);
  const [chosen, setChosen] = useState<Task | null>(null);
  const takes = inventory.files.filter((f) => f.take);
  const runsHere = recording?.state === "Recording" && recording.sessionId === session.id;
  const info = record.data ?? null;
  const open = info ? [chosen, firstTask(info)].find((t) => t && isOpen(t, info)) : null;
  const task = runsHere ? null : (open ?? null);
  // What was left out is remembered, not what was taken: a take that turns up later is taken by default.
  const [leftOut, setLeftOut] = useState<ReadonlySet<string>>(new Set());
  const markable = (file: FileEntry) =>
    task === "takes" ? file.take?.isWaiting === true : task === "repair" && file.take?.needsRepair === true;
  const able = takes.filter(markable).map((f) => f.id);
  const marked = able.filter((id) => !leftOut.has(id));
  // What was just recorded is the next thing to deal with, whatever the tray still says.
  const putAway = useEffectEvent(() => run.moveOn());
  useEffect(() => {
    if (runsHere) putAway();
  }, [runsHere]);
  const plan = useQuery({
    queryKey: ["plan", "record", session.id, task, marked.join(), signature(inventory), info?.mirror?.gaps.join()],
    enabled: task !== null && (task === "mirror" || marked.length > 0) && run.job === null,
    gcTime: 0,
    staleTime: 60_000,
    queryFn: () => planFor(task, session.id, marked),
  });
  const activeFile = takes.find((f) => f.id === active);
  return (
    <main className="station">
      <div className="station-head">
        <h1>Record</h1>
        <p className="quiet">
          Takes land in the audio folder. What other programs record there turns up here by itself.
        </p>
      </div>
      <OutsideNotice inventory={inventory} />
      {info && (
        <RecorderPanel
          sessionId={session.id}
          info={info}
          recording={recording}
          choices={choices}
          isNext={task === null && run.job === null}
        />
      )}
      {record.error && <p className="trouble">{record.error.message}</p>}
      {info && !runsHere && <Tasks info={info} task={task} onChoose={setChosen} />}
      <div className="with-tag">
        <FileList
          files={takes}
          kind={takeList}
          {...(task === "takes" || task === "repair"
            ? {
                marked: new Set(marked),
                onMark: (ids: ReadonlySet<string>) => {
                  run.moveOn();
                  setLeftOut(new Set(able.filter((id) => !ids.has(id))));
                },
                markable,
              }
            : {})}
          active={active}
          onActive={setActive}
          empty="No takes yet. Arm a track and start, or let any program record into the audio folder."
        />
        {activeFile && <FileTag file={activeFile} onClose={() => setActive(null)} />}
      </div>
      <PlanTray
        run={run}
        plan={task && (task === "mirror" || marked.length > 0) ? (plan.data ?? null) : null}
        planning={plan.isFetching}
        error={plan.error?.message ?? null}
        applyWord={task ? applyWord[task] : "Apply"}
        idle={
          task
            ? "Everything that waits is left out. Mark what to take."
            : runsHere
              ? "While it records, nothing else is done here."
              : "Nothing waits: every take is whole and on the list."
        }
      />
    </main>
  );
}

const isOpen = (task: Task, info: RecordInfo) =>
  task === "takes" ? info.waiting > 0 : task === "repair" ? info.cutOff > 0 : (info.mirror?.gaps.length ?? 0) > 0;

const signature = (inventory: Inventory) =>
  inventory.files
    .filter((f) => f.take)
    .map((f) => `${f.id} ${f.changed} ${f.use} ${f.growing}`)
    .join("|");

function planFor(task: Task | null, id: string, fileIds: string[]) {
  const params = { path: { id } };
  switch (task) {
    case "takes":
      return answer(api.POST("/api/sessions/{id}/record/takes/plan", { params, body: { fileIds } }));
    case "repair":
      return answer(api.POST("/api/sessions/{id}/record/repair/plan", { params, body: { fileIds } }));
    case "mirror":
      return answer(api.POST("/api/sessions/{id}/record/mirror/plan", { params }));
    default:
      throw new Error("There is nothing to plan.");
  }
}

/** What waits here, each with the plan that deals with it. */
function Tasks({ info, task, onChoose }: { info: RecordInfo; task: Task | null; onChoose: (task: Task) => void }) {
  const gaps = info.mirror?.gaps ?? [];
  const rows: [Task, boolean, string][] = [
    [
      "repair",
      info.cutOff > 0,
      `${count(info.cutOff, "recording")} ${info.cutOff === 1 ? "was" : "were"} cut off. The sound up to then is there.`,
    ],
    ["takes", info.waiting > 0, `${count(info.waiting, "take")} ${info.waiting === 1 ? "is" : "are"} on no list yet.`],
    [
      "mirror",
      gaps.length > 0,
      `${count(gaps.length, "take")} ${gaps.length === 1 ? "is" : "are"} not whole on the mirror${info.mirror?.connected ? "." : `; '${info.mirror?.shelfName}' is away.`}`,
    ],
  ];
  const open = rows.filter(([, isThere]) => isThere);
  if (open.length === 0) return null;
  return (
    <ul className="tasks" aria-label="What waits here">
      {open.map(([key, , words]) => (
        <li key={key} className={key === task ? "planned" : ""}>
          <span>{words}</span>
          {key === task ? (
            <small>planned below</small>
          ) : (
            <Button size="small" onClick={() => onChoose(key)}>
              Plan it
            </Button>
          )}
        </li>
      ))}
    </ul>
  );
}
