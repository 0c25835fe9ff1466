import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { useEffect, useEffectEvent, useMemo, useState } from "react";
import { answer, api } from "../api/client";
import { keys, useRecording } from "../api/queries";
import type { FileEntry, RecordInfo } from "../api/types";
import { OutsideNotice } from "../copy-in/OutsideNotice";
import { takeList } from "../files/columns";
import { FilesWithTag } from "../files/FilesWithTag";
import { useFiles } from "../files/useFiles";
import { Sheets } from "../frame/Choices";
import { useDraft } from "../frame/kept";
import { Page } from "../frame/Page";
import { PlanTray } from "../plans/PlanTray";
import type { StationProps } from "../plans/stationProps";
import { usePlanned } from "../plans/usePlanned";
import { count } from "../words";
import { useRecord } from "./queries";
import { RecorderPanel } from "./RecorderPanel";
import css from "./record.module.css";
import { TakeLog } from "./TakeLog";
import { useRecordChoices } from "./useRecordChoices";

type Task = "takes" | "repair" | "mirror";

const applyWord: Record<Task, string> = {
  takes: "Add to session",
  repair: "Repair on copies",
  mirror: "Copy to the mirror",
};

/** The task that comes first when nobody has chosen one. */
function firstTask(info: RecordInfo): Task | null {
  if (info.cutOff > 0) return "repair";
  if (info.waiting > 0) return "takes";
  return (info.mirror?.gaps.length ?? 0) > 0 && info.mirror?.connected ? "mirror" : null;
}

type Sheet = "takes" | "log";

/** Records, and looks after what was recorded: as a list with the recorder, or as a take log. */
export function RecordStation(props: StationProps) {
  const [sheet, setSheet] = useDraft<Sheet>("record sheet", "takes");
  return (
    <Page
      title="Record"
      about={
        <>
          <Sheets<Sheet>
            label="What to look at"
            value={sheet}
            onChange={(next) => {
              props.run.moveOn();
              setSheet(next);
            }}
            options={[
              { value: "takes", label: "Recorder and takes" },
              { value: "log", label: "Take log" },
            ]}
          />
          <p className="quiet">
            {sheet === "log"
              ? "Tracks across, passes down. What is kept, what was noted, what is placed where."
              : "Takes land in the audio folder. What other programs record there turns up here by itself."}
          </p>
        </>
      }
    >
      {sheet === "log" ? <TakeLog {...props} /> : <RecorderAndTakes {...props} />}
    </Page>
  );
}

/** Arms tracks, records, and looks after what was recorded, by our recorder or by any other program. */
function RecorderAndTakes({ inventory, run }: StationProps) {
  const { session } = inventory;
  const choices = useRecordChoices(session.id);
  const record = useRecord(session.id, choices.armed.length);
  const recording = useRecording().data ?? null;
  const [chosen, setChosen] = useState<Task | null>(null);
  const runsHere = recording?.state === "Recording" && recording.sessionId === session.id;
  const info = record.data ?? null;
  const open = info ? [chosen, firstTask(info)].find((t) => t && isOpen(t, info)) : null;
  const task = runsHere ? null : (open ?? null);
  const isMarkTask = task === "takes" || task === "repair";
  const rows = useFiles({
    kind: takeList,
    marks: task === "takes" ? "TakesList" : task === "repair" ? "Repair" : "Nothing",
  });
  // What was left out is remembered, not what was taken: a take that turns up later is taken by default.
  const [leftOutIds, setLeftOutIds] = useDraft<string[]>("record left out", []);
  const leftOut = useMemo(() => new Set(leftOutIds), [leftOutIds]);
  const isAble = (file: FileEntry) => (task === "takes" ? file.take?.isWaiting : file.take?.needsRepair) === true;
  // Of those left out only some may wait still, or be in the list as it is narrowed.
  const left = useQuery({
    queryKey: [...keys.files(session.id), "waiting", task, inventory.takes.fingerprint],
    enabled: isMarkTask && leftOut.size > 0,
    placeholderData: keepPreviousData,
    queryFn: () => waitingIds(session.id, task),
  });
  const waiting = task === "takes" ? inventory.takes.waiting : task === "repair" ? inventory.takes.cutOff : 0;
  const marked = waiting - (leftOut.size > 0 ? (left.data ?? []).filter((id) => leftOut.has(id)).length : 0);
  const change = (next: ReadonlySet<string>) => {
    run.moveOn();
    setLeftOutIds([...next].toSorted());
  };
  const mark = (ids: readonly string[], on: boolean) => {
    const next = new Set(leftOut);
    for (const id of ids) {
      if (on) next.delete(id);
      else next.add(id);
    }
    change(next);
  };
  // What was just recorded is the next thing to deal with, whatever the tray still says.
  const putAway = useEffectEvent(() => run.moveOn());
  useEffect(() => {
    if (runsHere) putAway();
  }, [runsHere]);
  const planned = usePlanned(
    `record ${task}`,
    task !== null && (task === "mirror" || marked > 0) ? { task, leftOut: leftOutIds } : null,
    [session.id, inventory.takes.fingerprint, info?.mirror?.gaps],
    (choice, signal) => planFor(choice.task, session.id, choice.leftOut, signal),
    run,
  );
  return (
    <>
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
      <FilesWithTag
        rows={rows}
        marks={
          isMarkTask
            ? {
                able: isAble,
                has: (file) => isAble(file) && !leftOut.has(file.id),
                all: rows.markable === 0 ? null : !rows.loaded.some((f) => isAble(f) && leftOut.has(f.id)),
                mark,
                markAll: async (on) => mark(await rows.markableIds(), on),
              }
            : null
        }
        empty="No takes yet. Arm a track and start, or let any program record into the audio folder."
      />
      <PlanTray
        run={run}
        planned={planned}
        applyWord={task ? applyWord[task] : "Apply"}
        idle={
          task
            ? "Everything that waits is left out. Mark what to deal with."
            : runsHere
              ? "Recording. Other work waits."
              : "Nothing waits: every take is whole and in the session."
        }
      />
    </>
  );
}

const isOpen = (task: Task, info: RecordInfo) =>
  task === "takes" ? info.waiting > 0 : task === "repair" ? info.cutOff > 0 : (info.mirror?.gaps.length ?? 0) > 0;

const waitingIds = (id: string, task: Task | null) =>
  answer(
    api.GET("/api/sessions/{id}/files/ids", {
      params: { path: { id }, query: { of: "Takes", marks: task === "takes" ? "TakesList" : "Repair" } },
    }),
  );

function planFor(task: Task, id: string, leftOut: string[], signal: AbortSignal) {
  const params = { path: { id } };
  switch (task) {
    case "takes":
      return answer(api.POST("/api/sessions/{id}/record/takes/plan", { params, body: { leftOut }, signal }));
    case "repair":
      return answer(api.POST("/api/sessions/{id}/record/repair/plan", { params, body: { leftOut }, signal }));
    case "mirror":
      return answer(api.POST("/api/sessions/{id}/record/mirror/plan", { params, signal }));
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
    [
      "takes",
      info.waiting > 0,
      `${count(info.waiting, "take")} ${info.waiting === 1 ? "is" : "are"} not in the session yet.`,
    ],
    [
      "mirror",
      gaps.length > 0,
      `${count(gaps.length, "take")} ${gaps.length === 1 ? "is" : "are"} not whole on the mirror${info.mirror?.connected ? "." : `; '${info.mirror?.shelfName}' is away.`}`,
    ],
  ];
  const open = rows.filter(([, isThere]) => isThere);
  if (open.length === 0) return null;
  return (
    <ul className={css.tasks} aria-label="What waits here">
      {open.map(([key, , words]) => (
        <li key={key} className={key === task ? css.planned : ""}>
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
