import { Button, Checkbox } from "antd";
import { useState } from "react";
import { answer, api } from "../api/client";
import type { FileEntry, PurgeDepth, PurgeFile, PurgeGroup, PurgeInfo } from "../api/types";
import { FileList } from "../files/FileList";
import { WithTag } from "../files/FilesWithTag";
import { ActiveFile } from "../files/FileTag";
import { Choices } from "../frame/Choices";
import { Folded } from "../frame/Folded";
import { useDraft, useMarks, useRemembered } from "../frame/kept";
import { MakeSure } from "../jobs/MakeSure";
import { PlanTray } from "../plans/PlanTray";
import type { StationProps } from "../plans/stationProps";
import { usePlanned } from "../plans/usePlanned";
import { count } from "../words";
import { anythingGoes, type Going, goes, nothingGoes, withFiles, withGroup } from "./choices";
import { PurgeGroups } from "./PurgeGroups";
import css from "./purge.module.css";
import { type Counting, useReadAlike } from "./queries";
import { Scales } from "./Scales";
import { purgeOf, titleOf, usePurgeRows } from "./usePurgeRows";

interface Props extends StationProps {
  info: PurgeInfo;
  counting: Counting;
  onCounting: (counting: Counting) => void;
}

const protectors: readonly { key: keyof Counting; words: string }[] = [
  { key: "olderVersions", words: "older versions" },
  { key: "keptSaves", words: "kept saves" },
  { key: "otherSessions", words: "other sessions" },
];

/** Whose use protects a file, in one line; what does not is named, since that is what loses. */
function protectedWords(counting: Counting): string {
  const listed = (on: boolean) =>
    new Intl.ListFormat("en-GB").format(protectors.filter((p) => counting[p.key] === on).map((p) => p.words));
  const without = listed(false);
  return without === "" ? `What ${listed(true)} use is protected.` : `What ${without} use is not protected.`;
}

/** Groups of what is no media: nobody hears it, and nothing more is known of it. */
const noMedia: ReadonlySet<PurgeGroup | null> = new Set<PurgeGroup | null>(["Caches", "Litter", "EmptyFolders"]);

const depthHint: Record<PurgeDepth, string> = {
  SetAside: "kept in “Set aside”; nothing is deleted.",
  OffList: "files stay where they are.",
};

/** What could go: weighed, grouped, heard, and chosen. */
export function WhatCouldGo({ inventory, run, info, counting, onCounting }: Props) {
  const id = inventory.session.id;
  const [going, setGoing] = useMarks<Going>("purge going", nothingGoes);
  const [group, setGroup] = useDraft<PurgeGroup | null>("purge group", null);
  const [everything, setEverything] = useDraft("purge everything", false);
  const [depth, setDepth] = useRemembered<PurgeDepth>("purge depth", "SetAside");
  const [instruments, setInstruments] = useDraft("purge instruments", false);
  const read = useReadAlike(id);
  const isRefused = info.refusal !== null;
  const change =
    <T,>(set: (value: T) => void) =>
    (value: T) => {
      run.moveOn();
      set(value);
    };
  const choose = change(setGoing);
  const planned = usePlanned(
    "purge",
    !isRefused && anythingGoes(going, info) ? { ...going, depth, instrumentsAreThere: instruments, ...counting } : null,
    [id, info.revision],
    (body, signal) =>
      answer(
        api.POST("/api/sessions/{id}/purge/plan", {
          params: { path: { id } },
          body: { ...body, groups: [...body.groups], except: [...body.except], also: [...body.also] },
          signal,
        }),
      ),
    run,
  );
  const rendersChosen = info.groups.some((g) => g.group === "Renders" && g.onlyByName > 0) && going.also.length > 0;
  return (
    <>
      <Scales now={info.weights} after={planned.view?.after ?? null} />
      <div className={css.ways}>
        <Folded name="purge counting" says={protectedWords(counting)}>
          {protectors.map(({ key, words }) => (
            <Checkbox
              key={key}
              checked={counting[key]}
              onChange={(e) => change(onCounting)({ ...counting, [key]: e.target.checked })}
            >
              {`Protect what ${words} use`}
            </Checkbox>
          ))}
        </Folded>
        <Choices<PurgeDepth>
          label="What becomes of what goes"
          value={depth}
          onChange={change(setDepth)}
          options={[
            { value: "SetAside", label: "Set aside" },
            { value: "OffList", label: "Off the list" },
          ]}
        />
        <span className="quiet">{depthHint[depth]}</span>
      </div>
      <MakeSure
        files={info.toReadFiles}
        bytes={info.toReadBytes}
        reading="Reading what may be the same sound"
        offer={`${count(info.toReadFiles, "file")} may hold the same sound; reading them tells for certain.`}
        read={read}
      />
      {info.groups.length > 0 && (
        <PurgeGroups
          groups={info.groups}
          going={going}
          shown={group}
          isRefused={isRefused}
          onShow={setGroup}
          onGo={async (of, on) => choose(withGroup(going, of, await idsOf(id, counting, of), on))}
        />
      )}
      <Candidates
        counting={counting}
        group={group}
        onGroup={setGroup}
        everything={everything}
        onEverything={setEverything}
        all={info.groups.reduce((sum, g) => sum + g.files, 0)}
        going={going}
        isRefused={isRefused}
        isDone={run.job !== null}
        onGoing={choose}
      />
      <PlanTray
        run={run}
        planned={{ ...planned, view: planned.view?.plan ?? null }}
        drafts={["purge going", "purge instruments"]}
        offer={
          rendersChosen && (
            <Checkbox checked={instruments} onChange={(e) => change(setInstruments)(e.target.checked)}>
              The next person owns the instruments
            </Checkbox>
          )
        }
        applyWord={depth === "SetAside" ? "Set aside" : "Take off the list"}
        idle={
          isRefused
            ? "Nothing is set aside here."
            : info.groups.length === 0
              ? "Nothing left to remove."
              : "Tick a group, or hear the files one by one: K keeps, L removes, and the next one follows."
        }
      />
    </>
  );
}

const idsOf = (id: string, counting: Counting, group: PurgeGroup) =>
  answer(api.GET("/api/sessions/{id}/purge/files/ids", { params: { path: { id }, query: { ...counting, group } } }));

interface CandidatesProps {
  counting: Counting;
  group: PurgeGroup | null;
  onGroup: (group: PurgeGroup | null) => void;
  everything: boolean;
  onEverything: (everything: boolean) => void;
  all: number;
  going: Going;
  isRefused: boolean;
  /** True once a plan is applied: the chosen file may be gone, and its tag with it. */
  isDone: boolean;
  onGoing: (going: Going) => void;
}

/** The files, each with why it counts; heard and judged by the keyboard alone. */
function Candidates(props: CandidatesProps) {
  const { counting, group, onGroup, everything, onEverything, all, going, isRefused, isDone, onGoing } = props;
  const rows = usePurgeRows({ counting, group, onGroup, everything, all });
  const [active, setActive] = useState<string | null>(null);
  const able = (file: FileEntry) => !isRefused && purgeOf(file).group !== null;
  const has = (file: FileEntry) => goes(purgeOf(file), going);
  const mark = (ids: readonly string[], on: boolean) => onGoing(withFiles(going, ids, rows.loaded.map(purgeOf), on));
  const markable = rows.loaded.filter(able);
  const row = isDone ? undefined : rows.loaded.find((r) => r.id === active);
  const remove = (on: boolean) => (file: FileEntry) => {
    if (able(file)) mark([file.id], on);
    return undefined;
  };
  return (
    <WithTag
      tag={
        <ActiveFile
          rows={{ loaded: rows.loaded, active: row ? active : null, setActive }}
          more={row && <Why file={purgeOf(row)} />}
          isMedia={row !== undefined && !noMedia.has(purgeOf(row).group)}
        />
      }
    >
      <FileList
        rows={rows}
        marks={{
          able,
          has,
          all: markable.length === 0 ? null : markable.every(has),
          mark,
          markAll: async (on) => mark(await rows.ids(0, rows.total - 1), on),
        }}
        active={active}
        onActive={setActive}
        search={
          <Checkbox checked={everything} onChange={(e) => onEverything(e.target.checked)}>
            also what stays
          </Checkbox>
        }
        judge={{ k: remove(false), l: remove(true) }}
        groupAction={(run) => {
          const at = rows.groups.indexOf(run);
          const first = rows.groups.slice(0, at).reduce((sum, g) => sum + g.files, 0);
          const here = rows.loaded.filter((f) => titleOf(purgeOf(f)) === run.title && able(f));
          if (here.length < 2) return null;
          const isAll = here.every(has);
          return (
            <Button
              size="small"
              type="text"
              onClick={async () => mark(await rows.ids(first, first + run.files - 1), !isAll)}
            >
              {isAll ? "Keep all" : "Mark all"}
            </Button>
          );
        }}
        empty={everything ? "No files here." : "Nothing could go here."}
      />
    </WithTag>
  );
}

/** Why a file counts as used or not, a line each, told by shape and word. */
function Why({ file }: { file: PurgeFile }) {
  return (
    <section className={css.why} aria-label="Why it counts as used or not">
      <ul>
        {file.reasons.map((r) => (
          <li key={r.text} className={r.protects ? css.protects : ""}>
            {r.text}
          </li>
        ))}
        {file.keptBeside && <li>{`“${file.keptBeside}” is kept on its track`}</li>}
      </ul>
      <p className="quiet">
        {file.group === null
          ? "It stays."
          : file.isOnlyByName
            ? "It goes only if you tick it yourself."
            : "Nothing that counts uses it."}
      </p>
    </section>
  );
}
