import { useVirtualizer } from "@tanstack/react-virtual";
import { Button, Checkbox, Input, type InputRef, Select } from "antd";
import { useEffect, useEffectEvent, useRef, useState } from "react";
import { answer, api } from "../api/client";
import { useParts } from "../api/parts";
import { keys } from "../api/queries";
import type { LoggedTake, TakeLogPart, TakeLogRow } from "../api/types";
import filesCss from "../files/files.module.css";
import { useDraft } from "../frame/kept";
import { isChord } from "../frame/keys";
import { usePlayer } from "../listening/player";
import { isAudible } from "../listening/usePeaks";
import { PlanTray } from "../plans/PlanTray";
import type { StationProps } from "../plans/stationProps";
import { usePlanned } from "../plans/usePlanned";
import { count, number, parsePosition, position } from "../words";
import { TakeCell } from "./TakeCell";
import css from "./take-log.module.css";
import { type changed, changedAll, inCell, neighbour, type TakeChanges, wished } from "./takeChanges";

const rowHeight = 78;

/** A table that takes the keyboard for all its takes is a grid (ARIA Authoring Practices, "Grid (Interactive Tabular Data)"). */
const gridRole = (active: string | null) => ({
  role: "grid",
  tabIndex: 0,
  "aria-label": "Takes: tracks across, passes down",
  "aria-activedescendant": active ? `take-${active}` : undefined,
});

/** The take log as engineers keep it on paper: tracks across, passes down; keepers, notes, and what is placed where. */
export function TakeLog({ inventory, run }: StationProps) {
  const { session } = inventory;
  const rows = useParts<TakeLogPart, TakeLogRow>([...keys.files(session.id), "log"], (skip, take, signal) =>
    answer(
      api.GET("/api/sessions/{id}/record/log", { params: { path: { id: session.id }, query: { skip, take } }, signal }),
    ),
  );
  const [changes, setDraft] = useDraft<TakeChanges>("take log", {});
  const [active, setActive] = useState<string | null>(null);
  const [selected, setSelected] = useState<ReadonlySet<string>>(new Set());
  const scroller = useRef<HTMLDivElement>(null);
  const grid = useRef<HTMLTableElement>(null);
  const noteField = useRef<InputRef>(null);
  const timeField = useRef<InputRef>(null);
  const playing = usePlayer((p) => p.playing);
  const heard = usePlayer((p) => p.fileId);

  const tracks = rows.first?.tracks ?? [];
  const hasTrackless = rows.loaded.some((r) => inCell(r, null).length > 0);
  const columns: readonly (string | null)[] = hasTrackless ? [...tracks, null] : tracks;
  const lines = Array.from({ length: rows.total }, (_, n) => rows.at(n));
  const takes = rows.loaded.flatMap((r) => r.takes);
  const current = takes.find((t) => t.file.id === active) ?? null;
  const chosen = selected.size > 1 ? takes.filter((t) => selected.has(t.file.id)) : current ? [current] : [];

  const virtual = useVirtualizer({
    count: rows.total,
    getScrollElement: () => scroller.current,
    estimateSize: () => rowHeight,
    overscan: 6,
  });
  const items = virtual.getVirtualItems();
  const { want } = rows;
  const [firstInSight, lastInSight] = [items[0]?.index ?? 0, items.at(-1)?.index ?? 0];
  useEffect(() => want(firstInSight, lastInSight), [want, firstInSight, lastInSight]);

  const setChanges = (next: TakeChanges) => {
    run.moveOn();
    setDraft(next);
  };
  const change = (part: Parameters<typeof changed>[2]) => setChanges(changedAll(changes, chosen, part));
  const areKeepers = chosen.length > 0 && chosen.every((t) => wished(t, changes).isKeeper);
  const arePlaced = chosen.some((t) => wished(t, changes).placed !== "");

  const go = (take: LoggedTake | null, e: { shiftKey: boolean }) => {
    if (!take) return;
    setActive(take.file.id);
    setSelected(e.shiftKey ? new Set([...selected, ...(active ? [active] : []), take.file.id]) : new Set());
    const row = lines.findIndex((r) => r?.takes.some((t) => t.file.id === take.file.id));
    if (row >= 0) virtual.scrollToIndex(row);
    // Whoever listens and moves on listens to the next one.
    if (playing && usePlayer.getState().follows && isAudible(take.file))
      usePlayer.getState().play(session.id, take.file);
  };

  const choose = (take: LoggedTake, e: { ctrlKey: boolean; metaKey: boolean; shiftKey: boolean }) => {
    const next = new Set(selected.size > 0 || !active ? selected : [active]);
    const isMore = e.ctrlKey || e.metaKey || e.shiftKey;
    if (isMore && !next.delete(take.file.id)) next.add(take.file.id);
    setSelected(isMore ? next : new Set());
    setActive(take.file.id);
    grid.current?.focus();
  };

  const onKeyDown = useEffectEvent((e: KeyboardEvent) => {
    if (isChord(e) || e.altKey) return;
    const acts: Record<string, () => void> = {
      " ": () => current && isAudible(current.file) && usePlayer.getState().toggle(session.id, current.file),
      k: () => change({ isKeeper: !areKeepers }),
      n: () => noteField.current?.focus(),
      p: () => change({ place: { track: null, seconds: null }, takeOff: false }),
      t: () => timeField.current?.focus(),
      u: () => change({ place: null, takeOff: true }),
      Escape: () => setSelected(new Set()),
    };
    if (e.key === "ArrowLeft" || e.key === "ArrowRight" || e.key === "ArrowUp" || e.key === "ArrowDown") {
      e.preventDefault();
      go(neighbour(lines, columns, active, e.key), e);
    } else if (acts[e.key]) {
      e.preventDefault();
      acts[e.key]?.();
    }
  });

  // The grid takes the keys for all its takes, of which only those in sight exist.
  useEffect(() => {
    const table = grid.current;
    const key = (e: KeyboardEvent) => onKeyDown(e);
    table?.addEventListener("keydown", key);
    return () => table?.removeEventListener("keydown", key);
  }, []);

  const pending = Object.values(changes);
  const planned = usePlanned(
    "take log",
    pending.length > 0 ? { changes: pending } : null,
    [session.id, session.documentChanged, inventory.takes.fingerprint],
    (choice, signal) =>
      answer(
        api.POST("/api/sessions/{id}/record/log/plan", { params: { path: { id: session.id } }, body: choice, signal }),
      ),
    run,
  );
  const template = { gridTemplateColumns: `86px repeat(${Math.max(1, columns.length)}, minmax(178px, 1fr))` };
  return (
    <>
      <section className={css.takeLog} aria-label="Take log">
        <div className={css.logTools}>
          {chosen.length === 0 ? (
            <span className="quiet">
              {`${count(inventory.takes.files, "take")}. Choose one; the arrows go along the pass and the track, Space plays.`}
            </span>
          ) : (
            <>
              <strong className={css.logOf}>{nameOf(chosen)}</strong>
              <Checkbox checked={areKeepers} onChange={(e) => change({ isKeeper: e.target.checked })}>
                keeper <kbd>K</kbd>
              </Checkbox>
              <NoteField
                key={chosen.map((t) => t.file.id).join()}
                reference={noteField}
                notes={[...new Set(chosen.map((t) => wished(t, changes).note))]}
                onNote={(note) => change({ note })}
              />
              <Button size="small" onClick={() => change({ place: { track: null, seconds: null }, takeOff: false })}>
                Place at its time <kbd>P</kbd>
              </Button>
              <PlaceField
                reference={timeField}
                tracks={inventory.trackNames}
                isOne={chosen.length === 1}
                onPlace={(track, seconds) => change({ place: { track, seconds }, takeOff: false })}
              />
              <Button size="small" disabled={!arePlaced} onClick={() => change({ place: null, takeOff: true })}>
                Take it off the track <kbd>U</kbd>
              </Button>
            </>
          )}
        </div>
        {rows.error && <p className="trouble">{rows.error.message}</p>}
        <div className={css.scroller} ref={scroller}>
          <table className={css.logGrid} aria-rowcount={rows.total + 1} {...gridRole(active)} ref={grid}>
            <thead>
              <tr className={`${css.logRow} ${css.head}`} aria-rowindex={1} style={template}>
                <th scope="col">Pass</th>
                {columns.map((track) => (
                  <th scope="col" key={track ?? ""}>
                    {track ?? "no track"}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody className={css.logRows} style={{ height: virtual.getTotalSize() }}>
              {items.map((item) => {
                const row = rows.at(item.index);
                return (
                  <tr
                    key={item.key}
                    ref={virtual.measureElement}
                    data-index={item.index}
                    className={css.logRow}
                    aria-rowindex={item.index + 2}
                    style={{ ...template, transform: `translateY(${item.start}px)` }}
                  >
                    <th scope="row" className={css.logPass}>
                      {row ? titleOf(row) : ""}
                    </th>
                    {columns.map((track) => (
                      <td className={css.logCell} key={track ?? ""}>
                        {row &&
                          inCell(row, track).map((take) => (
                            <TakeCell
                              key={take.file.id}
                              take={take}
                              wished={wished(take, changes)}
                              isActive={take.file.id === active}
                              isSelected={selected.has(take.file.id)}
                              isPlaying={playing && heard === take.file.id}
                              onChoose={(e) => choose(take, e)}
                            />
                          ))}
                      </td>
                    ))}
                  </tr>
                );
              })}
            </tbody>
          </table>
          {rows.first !== undefined && rows.total === 0 && (
            <p className={filesCss.listEmpty}>No takes yet. What is recorded into the audio folder turns up here.</p>
          )}
        </div>
      </section>
      <PlanTray
        run={run}
        planned={planned}
        drafts={["take log"]}
        applyWord="Write into the session"
        idle="Nothing is to change. Marks, notes and places stand in the session's document, and go along in a bundle."
        offer={
          pending.length > 0 && run.undoPlan === null ? <Button onClick={() => setChanges({})}>Discard</Button> : null
        }
      />
    </>
  );
}

const titleOf = ({ pass, number: n }: TakeLogRow) =>
  pass !== null ? `pass ${pass}` : n !== null ? `take ${n}` : "no pass";

const nameOf = (takes: readonly LoggedTake[]) => {
  const [only, more] = takes;
  if (!only) return "";
  if (more) return `${number(takes.length)} takes`;
  const { take, name } = only.file;
  return take?.track ? [take.track, take.number && `take ${take.number}`].filter(Boolean).join(", ") : name;
};

interface NoteProps {
  reference: React.Ref<InputRef>;
  /** The notes of all that is chosen, each once. */
  notes: readonly string[];
  onNote: (note: string) => void;
}

/** The note on a take, or on several; it counts on Enter, or on leaving the field. */
function NoteField({ reference, notes, onNote }: NoteProps) {
  const note = notes.length === 1 ? (notes[0] ?? "") : "";
  const [text, setText] = useState(note);
  const done = () => text !== note && onNote(text);
  return (
    <Input
      ref={reference}
      size="small"
      className={css.logNote}
      maxLength={1000}
      aria-label="Note"
      // Notes that differ are not shown as none: what is typed takes the place of all of them.
      placeholder={notes.length > 1 ? "notes differ; typing replaces them all (N)" : "note (N)"}
      value={text}
      onChange={(e) => setText(e.target.value)}
      onBlur={done}
      onKeyDown={(e) => {
        if (e.key === "Escape") setText(note);
        if (e.key !== "Enter" && e.key !== "Escape") return;
        if (e.key === "Enter") done();
        document.querySelector<HTMLElement>(`.${css.logGrid}`)?.focus();
      }}
    />
  );
}

interface PlaceProps {
  reference: React.Ref<InputRef>;
  tracks: readonly string[];
  /** Several takes go to one time only where each has a track of its own. */
  isOne: boolean;
  onPlace: (track: string | null, seconds: number) => void;
}

/** Places at a chosen time, on the take's own track or on another one. */
function PlaceField({ reference, tracks, isOne, onPlace }: PlaceProps) {
  const [track, setTrack] = useState<string | undefined>(undefined);
  const [text, setText] = useState("");
  const seconds = parsePosition(text);
  const place = () => {
    if (seconds === null) return;
    onPlace(track ?? null, seconds);
    setText("");
  };
  return (
    <span className={css.logPlace}>
      <Input
        ref={reference}
        size="small"
        className="mono"
        aria-label="Place at"
        placeholder={`at ${position(0)} (T)`}
        status={text !== "" && seconds === null ? "error" : ""}
        value={text}
        onChange={(e) => setText(e.target.value)}
        onKeyDown={(e) => {
          if (e.key !== "Enter" && e.key !== "Escape") return;
          if (e.key === "Enter") place();
          document.querySelector<HTMLElement>(`.${css.logGrid}`)?.focus();
        }}
      />
      {isOne && (
        <Select
          size="small"
          allowClear
          aria-label="Track to place on"
          placeholder="its track"
          value={track}
          onChange={setTrack}
          options={tracks.map((t) => ({ value: t, label: t, title: t }))}
        />
      )}
      <Button size="small" disabled={seconds === null} onClick={place}>
        Place
      </Button>
    </span>
  );
}
