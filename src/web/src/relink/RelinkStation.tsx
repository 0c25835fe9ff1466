import { Alert, Button, Checkbox } from "antd";
import { useState } from "react";
import { answer, api } from "../api/client";
import type { FileEntry, Move, RelinkInfo, RelinkWay } from "../api/types";
import { FileList } from "../files/FileList";
import { WithTag } from "../files/FilesWithTag";
import { leaveTag } from "../files/FileTag";
import { Choices, Sheets } from "../frame/Choices";
import { useDraft, useMarks, useRemembered } from "../frame/kept";
import { Page } from "../frame/Page";
import { Remarks } from "../frame/Remarks";
import { MakeSure } from "../jobs/MakeSure";
import { ofMatch } from "../listening/mediaSource";
import { PlanTray } from "../plans/PlanTray";
import type { StationProps } from "../plans/stationProps";
import { usePlanned } from "../plans/usePlanned";
import { count, dayOf, number, placeText } from "../words";
import { isCertain, type Taken, takeable, takenFor, type Ways, wayOf } from "./choices";
import { useLostFile, useRelink, useRelinkWork } from "./queries";
import css from "./relink.module.css";
import { TwoTags } from "./TwoTags";
import { useCompareNext } from "./useCompareNext";
import { groupOf, type LostRow, useLostRows } from "./useLostRows";
import { WhereToLook } from "./WhereToLook";
import { wayHint, wayWord } from "./words";

type Sheet = "missing" | "look";

/** Finds what is missing, shows why it is the one, and brings it back. */
export function RelinkStation({ inventory, run }: StationProps) {
  const id = inventory.session.id;
  const relink = useRelink(id);
  const { read } = useRelinkWork(id);
  const info = relink.data;
  const [sheet, setSheet] = useDraft<Sheet>("relink sheet", "missing");
  const [taken, setTaken] = useMarks<Taken>("relink taken", {});
  const [ways, setWays] = useDraft<Ways>("relink ways", {});
  const [compared, setCompared] = useDraft<readonly string[]>("relink compared", []);
  const [chosenWay, setWay] = useRemembered<RelinkWay>("relink way", "CopyIn");
  // What only names a file goes on naming it where it was: back there is the first way, and where the document is text a new version the other.
  const current = inventory.documents.find((d) => d.current);
  const isNaming = current?.isNaming === true;
  const [namedWay, setNamedWay] = useDraft<RelinkWay>("relink named way", "PutBack");
  const way = !isNaming ? chosenWay : current.isText ? namedWay : "PutBack";
  const [along, setAlong] = useDraft<readonly string[]>("relink along", []);
  const [older, setOlder] = useRemembered("relink older versions", true);
  const change =
    <T,>(set: (value: T) => void) =>
    (value: T) => {
      run.moveOn();
      set(value);
    };
  const choices = (info?.lost ?? []).flatMap((lost) => {
    const foundId = takenFor(lost, taken);
    return foundId
      ? [{ lostId: lost.id, foundId, way: wayOf(lost, ways, way), compared: compared.includes(lost.id) }]
      : [];
  });
  const moves = (info?.moves ?? []).filter((m) => along.includes(m.key) && m.elsewhere.length > 0).map((m) => m.key);
  const planned = usePlanned(
    "relink",
    choices.length > 0 ? { choices, olderDocuments: older, along: moves, way, newVersions: isNaming } : null,
    [id, info?.revision],
    (body, signal) => answer(api.POST("/api/sessions/{id}/relink/plan", { params: { path: { id } }, body, signal })),
    run,
  );
  const take = (lostIds: readonly string[], on: boolean) => {
    const next: Record<string, string | null> = { ...taken };
    const asked = new Set(lostIds);
    for (const lost of (info?.lost ?? []).filter((l) => asked.has(l.id)))
      next[lost.id] = on && lost.best && takeable(lost) ? lost.best.id : null;
    change(setTaken)(next);
  };
  return (
    <Page
      title="Relink"
      about={
        <>
          <Sheets<Sheet>
            label="What to look at"
            value={sheet}
            onChange={setSheet}
            options={[
              { value: "missing", label: "What is missing" },
              { value: "look", label: "Where to look" },
            ]}
          />
          <p className="quiet" role="status">
            {info ? info.sentence : relink.isPending && "Looking at what is missing."}
          </p>
        </>
      }
    >
      <Remarks remarks={inventory.remarks} />
      {relink.error && !info && (
        <Alert
          type="error"
          title={relink.error.message}
          action={<Button onClick={() => relink.refetch()}>Look again</Button>}
        />
      )}
      {info && sheet === "look" && <WhereToLook info={info} />}
      {info && sheet === "missing" && (
        <>
          <Together info={info} taken={taken} along={along} onTake={take} onAlong={change(setAlong)} />
          <MakeSure
            files={info.toReadFiles}
            bytes={info.toReadBytes}
            reading="Reading what may be it, to make sure"
            offer={`${count(info.toReadFiles, "file")} may be it; reading them tells for certain.`}
            read={read}
          />
          <div className={css.ways}>
            {(!isNaming || current.isText) && (
              <Choices<RelinkWay>
                label="How files come back"
                value={way}
                onChange={change((w) => {
                  (isNaming ? setNamedWay : setWay)(w);
                  setWays({});
                })}
                options={(isNaming
                  ? (["PutBack", "CopyIn", "Repoint"] as const)
                  : (["CopyIn", "Repoint", "PutBack"] as const)
                ).map((value) => ({
                  value,
                  label: wayWord[value],
                }))}
              />
            )}
            <span className="quiet">{isNaming ? namedHint(way) : wayHint[way]}</span>
            {inventory.session.olderDocuments > 0 && way !== "PutBack" && (
              <Checkbox checked={older} onChange={(e) => change(setOlder)(e.target.checked)}>
                Older versions too
              </Checkbox>
            )}
          </div>
          <Missing
            id={id}
            info={info}
            taken={taken}
            wayOf={(l) => wayOf(l, ways, way)}
            onTake={(lostId, foundId, only) => {
              // Whoever takes it here has both in sight.
              setCompared(foundId ? [...compared, lostId] : compared.filter((c) => c !== lostId));
              if (only) setWays({ ...ways, [lostId]: only });
              change(setTaken)({ ...taken, [lostId]: foundId });
            }}
            onTakeAll={take}
            onWay={(lostId, w) => change(setWays)({ ...ways, [lostId]: w })}
          />
        </>
      )}
      <PlanTray
        run={run}
        planned={planned}
        drafts={["relink taken", "relink ways", "relink along", "relink compared"]}
        applyWord="Relink"
        idle={info ? idleWords(info) : ""}
      />
    </Page>
  );
}

/** What becomes of a document that only names its files. */
const namedHint = (way: RelinkWay) =>
  way === "PutBack"
    ? "Each comes back as a copy in the place where the document names it."
    : "A new version of the document, beside the old one, names each where it is then.";

function idleWords(info: RelinkInfo) {
  if (info.counts.missing === 0 && info.counts.away === 0) return "Nothing is missing. This station has nothing to do.";
  return info.counts.toCompare > 0
    ? "Choose a missing file, compare it with what was found, and take it."
    : "Nothing is chosen. One can always work on with files missing.";
}

/** So many moves stand at once; more unfold. */
const mostMoves = 4;

interface TogetherProps {
  info: RelinkInfo;
  taken: Taken;
  along: readonly string[];
  onTake: (lostIds: readonly string[], on: boolean) => void;
  onAlong: (along: readonly string[]) => void;
}

/** What one decision brings back, and what is on drives that are away. */
function Together({ info, taken, along, onTake, onAlong }: TogetherProps) {
  const [isOpen, setOpen] = useState(false);
  const all = info.moves.filter((m) => m.lost.length > 1 || m.elsewhere.length > 0);
  if (all.length + info.awayShelves.length === 0) return null;
  const moves = isOpen ? all : all.slice(0, mostMoves);
  const certain = new Set(info.lost.filter(isCertain).map((l) => l.id));
  // What is certain is taken at once; what is not, only where a press says so.
  const offers = (move: Move) => {
    const sure = move.lost.filter((l) => certain.has(l));
    return sure.length > 0 && sure.length < move.lost.length
      ? [
          { ids: sure, words: `${number(sure.length)} certain` },
          { ids: move.lost, words: `all ${number(move.lost.length)}` },
        ]
      : [{ ids: move.lost, words: move.lost.length === 1 ? "it" : `all ${number(move.lost.length)}` }];
  };
  const isTaken = (lostIds: readonly string[]) => {
    const ids = new Set(lostIds);
    return info.lost.every((l) => !ids.has(l.id) || takenFor(l, taken) === l.best?.id);
  };
  return (
    <ul className={css.together} aria-label="What one decision brings back">
      {moves.map((move) => (
        <li key={move.key}>
          <span className={css.togetherWords}>
            <strong>{count(move.lost.length, "file")}</strong> moved from{" "}
            <span className="path">{placeText(move.from)}</span> to <span className="path">{placeText(move.to)}</span>
            {move.certain < move.lost.length &&
              ` (${number(move.certain)} certain, ${number(move.lost.length - move.certain)} to compare)`}
          </span>
          {move.elsewhere.length > 0 && (
            <Checkbox
              checked={along.includes(move.key)}
              onChange={(e) => onAlong(e.target.checked ? [...along, move.key] : along.filter((k) => k !== move.key))}
            >
              {`Also relink ${move.elsewhere.map((e) => `${number(e.files)} in ${dayOf(e.name)?.rest ?? e.name}`).join(", ")}`}
            </Checkbox>
          )}
          {offers(move).map(({ ids, words }) => (
            <Button key={words} size="small" onClick={() => onTake(ids, !isTaken(ids))}>
              {isTaken(ids) ? `Clear ${words}` : `Use ${words}`}
            </Button>
          ))}
        </li>
      ))}
      {all.length > mostMoves && (
        <li>
          <Button size="small" type="text" aria-expanded={isOpen} onClick={() => setOpen(!isOpen)}>
            {isOpen ? "Show fewer" : `${number(all.length - mostMoves)} more that moved together`}
          </Button>
        </li>
      )}
      {info.awayShelves.map((shelf) => (
        <li key={shelf.shelfId}>
          <span className={css.togetherWords}>
            <strong>{shelf.name}</strong> is away.{" "}
            {[
              shelf.needed > 0 && `${count(shelf.needed, "file")} ${shelf.needed === 1 ? "stands" : "stand"} on it`,
              shelf.matches > 0 && `${count(shelf.matches, "missing file")} may be on it`,
            ]
              .filter(Boolean)
              .join("; ")}
            . Plug it in to have what is on it.
          </span>
        </li>
      ))}
    </ul>
  );
}

interface MissingProps {
  id: string;
  info: RelinkInfo;
  taken: Taken;
  wayOf: (lost: RelinkInfo["lost"][number]) => RelinkWay;
  /** `only`: the way in which it comes back where it cannot in any other. */
  onTake: (lostId: string, foundId: string | null, only?: RelinkWay) => void;
  onTakeAll: (lostIds: readonly string[], on: boolean) => void;
  onWay: (lostId: string, way: RelinkWay) => void;
}

/** The missing files as pairs, and the chosen one beside what may be it. */
function Missing({ id, info, taken, wayOf: way, onTake, onTakeAll, onWay }: MissingProps) {
  const rows = useLostRows(info);
  const [active, setActive] = useState<string | null>(null);
  const { mark } = useRelinkWork(id);
  const lostOf = (file: FileEntry) => (file as LostRow).lost;
  const able = (file: FileEntry) => takeable(lostOf(file));
  const has = (file: FileEntry) => takenFor(lostOf(file), taken) !== null;
  const markable = rows.loaded.filter((f) => isCertain(lostOf(f)));
  const sure = new Set(markable.map((f) => f.id));
  const row = rows.loaded.find((r) => r.id === active);
  const asked = useLostFile(id, row ? active : null, info.revision).data;
  const details = asked && row && asked.lost.id === active ? asked : null;
  const [shownOf, setShownOf] = useState<Readonly<Record<string, string>>>({});
  const matches = details?.matches ?? [];
  const takenId = row ? takenFor(lostOf(row), taken) : null;
  const shown =
    matches.find((m) => active !== null && m.id === shownOf[active]) ??
    matches.find((m) => m.id === takenId) ??
    matches[0];
  const onShow = (matchId: string) => active !== null && setShownOf({ ...shownOf, [active]: matchId });
  const next = useCompareNext({ rows, taken, details, shown, onShow, onTake });
  const nextId = next.nextAfter(active);
  return (
    <WithTag
      tag={
        details && row ? (
          <TwoTags
            key={active}
            details={details}
            row={row}
            taken={takenId}
            shown={shown}
            onShow={onShow}
            others={nextId === null ? 0 : next.open - (next.isOpen(active) ? 1 : 0)}
            onNext={() => setActive(nextId)}
            way={way(lostOf(row))}
            onTake={(foundId, only) => onTake(details.lost.id, foundId, only)}
            onWay={(w) => onWay(details.lost.id, w)}
            onMark={(m, note) => mark.mutate({ lostIds: [details.lost.id], mark: m, note })}
            onClose={() => leaveTag(() => setActive(null))}
          />
        ) : null
      }
    >
      <FileList
        rows={rows}
        marks={{
          able,
          has,
          all: markable.length === 0 ? null : markable.every(has),
          // Of many at once what is certain is taken: what is to be compared takes a look at each.
          mark: (ids, on) => onTakeAll(on && ids.length > 1 ? ids.filter((i) => sure.has(i)) : ids, on),
          markAll: (on) =>
            onTakeAll(
              markable.map((f) => f.id),
              on,
            ),
        }}
        active={active}
        onActive={setActive}
        judge={next.judge}
        sound={(file) => {
          const { best } = lostOf(file);
          return best?.isThere ? ofMatch(best) : null;
        }}
        groupAction={(group) => {
          const files = rows.loaded.filter((f) => able(f) && groupOf(lostOf(f)) === group.title);
          const sure = files.filter((f) => isCertain(lostOf(f)));
          if (files.length < 2 || sure.length === 0) return null;
          const isAll = sure.every(has);
          const words = sure.length < files.length ? `${number(sure.length)} certain` : `all ${number(sure.length)}`;
          return (
            <Button
              size="small"
              type="text"
              onClick={() =>
                onTakeAll(
                  sure.map((f) => f.id),
                  !isAll,
                )
              }
            >
              {isAll ? `Clear ${words}` : `Use ${words}`}
            </Button>
          );
        }}
        empty="Nothing is missing: every file that the documents point at is there."
      />
    </WithTag>
  );
}
