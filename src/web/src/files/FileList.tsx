import { useVirtualizer } from "@tanstack/react-virtual";
import { Button, Input, type InputRef, Popover } from "antd";
import { type CSSProperties, type ReactNode, useEffect, useEffectEvent, useMemo, useRef, useState } from "react";
import type { FileEntry, FileGroup, FileGrouping } from "../api/types";
import { Choices } from "../frame/Choices";
import { isMenuKey, isNowhere, isTyping, useKeys } from "../frame/keys";
import type { RareAction } from "../frame/rareActions";
import { useSessionId } from "../frame/sessionContext";
import { usePlayer } from "../listening/player";
import { isAudible } from "../listening/usePeaks";
import { count, number, size } from "../words";
import type { Column } from "./columns";
import { FileMenu } from "./FileMenu";
import css from "./files.module.css";
import { type Columns, useColumns } from "./useColumns";
import type { FileRows } from "./useFiles";

/** What the plan takes of a list. */
export interface Marks {
  /** Whether a file can be marked at all. */
  able: (file: FileEntry) => boolean;
  has: (file: FileEntry) => boolean;
  /** Whether everything in the list that can be marked is; null where nothing can. */
  all: boolean | null;
  mark: (ids: readonly string[], on: boolean) => void;
  markAll: (on: boolean) => void;
}

/**
 * Keys that do something with the active file. Each says which file follows: another one by its identity, none where it answers null, else
 * the next in the list.
 */
export type Judge = Readonly<Record<string, (file: FileEntry) => string | null | undefined>>;

interface Props {
  rows: FileRows;
  /** Without it the list has no marks. */
  marks?: Marks | null;
  active: string | null;
  onActive: (id: string | null) => void;
  empty: string;
  /** Looking for files elsewhere than in this list; without it the list has a filter of its own. */
  search?: ReactNode;
  /** What is heard for a row; the file itself where nothing else is said. */
  sound?: (file: FileEntry) => FileEntry | null;
  /** What can be done with a whole group. */
  groupAction?: (group: FileGroup) => ReactNode;
  judge?: Judge;
}

const rowHeight = 32;

const noModifiers = { shiftKey: false, ctrlKey: false, metaKey: false };

/** A table that takes the keyboard for all its rows is a grid (ARIA Authoring Practices, "Grid (Interactive Tabular Data)"). */
const gridRole = (active: string | null) => ({
  role: "grid",
  tabIndex: 0,
  "aria-multiselectable": true,
  "aria-activedescendant": active ? `file-${active}` : undefined,
});

const titleOf = (column: Column) => column.title || <span className="unseen">Standing</span>;

/** Where the rows of a list stand: files in order, each group under a line of its own. */
function layOut(total: number, groups: readonly FileGroup[]) {
  const starts: number[] = [];
  let line = 0;
  for (const group of groups) {
    starts.push(line);
    line += group.files + 1;
  }
  /** Number of the group whose lines hold this one. */
  const groupAt = (at: number) => {
    let [low, high] = [0, starts.length - 1];
    while (low < high) {
      const middle = (low + high + 1) >> 1;
      if ((starts[middle] ?? 0) <= at) low = middle;
      else high = middle - 1;
    }
    return low;
  };
  return {
    lines: total + groups.length,
    /** The group whose title stands in a line, or the number of the file that does. */
    at: (at: number): { group: FileGroup } | { file: number } => {
      if (groups.length === 0) return { file: at };
      const n = groupAt(at);
      const group = groups[n];
      return group && starts[n] === at ? { group } : { file: at - n - 1 };
    },
    /** The file that stands in a line, or under the title in it. */
    near: (at: number) => {
      if (groups.length === 0) return at;
      const n = groupAt(at);
      return starts[n] === at ? at - n : at - n - 1;
    },
    lineOf: (file: number) => {
      let before = 0;
      for (const [n, group] of groups.entries()) {
        if (file < before + group.files) return file + n + 1;
        before += group.files;
      }
      return file;
    },
  };
}

/** So many rows are kept in sight ahead of the one at hand. */
const rowsAhead = 2;

/** How many are selected, and what they weigh, where that is known here. */
function selectedWords(selected: ReadonlySet<string>, loaded: readonly FileEntry[]): string {
  const here = loaded.filter((f) => selected.has(f.id));
  const words = `${number(selected.size)} selected`;
  return here.length === selected.size ? `${words}, ${size(here.reduce((sum, f) => sum + f.bytes, 0))}` : words;
}

/** The one list of files: virtual rows with table roles, sorted, grouped, filtered, and worked with the keyboard alone. */
export function FileList({ rows, marks = null, active, onActive, empty, search, sound, groupAction, judge }: Props) {
  const { kind, sort, tools, total, all, groups } = rows;
  const [selected, setSelected] = useState<ReadonlySet<string>>(new Set());
  const [anchor, setAnchor] = useState<number | null>(null);
  const [narrowing, setNarrowing] = useState(rows.narrowing);
  if (narrowing !== rows.narrowing) {
    // What the list no longer shows is not selected: nothing may act on rows that nobody sees.
    setNarrowing(rows.narrowing);
    setSelected(new Set());
    setAnchor(null);
  }
  const [activeAt, setActiveAt] = useState<number | null>(null);
  const [menuAt, setMenuAt] = useState<{ x: number; y: number } | null>(null);
  const scroller = useRef<HTMLDivElement>(null);
  const grid = useRef<HTMLTableElement>(null);
  const list = useRef<HTMLElement>(null);
  const columns = useColumns(kind, marks !== null, list);
  const filterInput = useRef<InputRef>(null);
  const sessionId = useSessionId();
  // Only what the rows show: where a sound is changes several times a second.
  const playing = usePlayer((p) => p.playing);
  const heard = usePlayer((p) => p.fileId);
  const heardFor = (file: FileEntry) => {
    const of = sound ? sound(file) : file;
    return of && isAudible(of) ? of : null;
  };
  const layout = useMemo(() => layOut(total, groups), [total, groups]);

  const virtual = useVirtualizer({
    count: layout.lines,
    getScrollElement: () => scroller.current,
    estimateSize: () => rowHeight,
    overscan: 12,
  });
  const items = virtual.getVirtualItems();
  const { want } = rows;
  const [firstInSight, lastInSight] = [layout.near(items[0]?.index ?? 0), layout.near(items.at(-1)?.index ?? 0)];
  useEffect(() => want(firstInSight, lastInSight), [want, firstInSight, lastInSight]);

  useKeys((e) => {
    if (e.key === "/" && !isTyping(e) && filterInput.current) {
      e.preventDefault();
      filterInput.current.focus();
    }
    // Where nothing else has the keyboard, the arrow that means the next row leads into the list.
    if (e.key === "ArrowDown" && isNowhere() && total > 0) {
      e.preventDefault();
      grid.current?.focus();
      void go((at) => (active === null ? 0 : at), noModifiers);
    }
  });

  // Where a tag opens beside the list, or a question above it, the row that is judged must not fall under its edge.
  const keepInSight = useEffectEvent(() => {
    if (active === null || activeAt === null || !grid.current?.contains(document.activeElement)) return;
    toLine(layout.lineOf(activeAt), false);
  });
  useEffect(() => {
    const box = scroller.current;
    if (!box) return;
    let height = box.clientHeight;
    const watch = new ResizeObserver(() => {
      if (box.clientHeight < height) keepInSight();
      height = box.clientHeight;
    });
    watch.observe(box);
    return () => watch.disconnect();
  }, []);

  /** Brings a line into sight, with what comes next on the way: it is seen before it is judged. */
  const toLine = (line: number, isUp: boolean) => {
    const top = scroller.current?.scrollTop ?? 0;
    const isAbove = line * rowHeight < top;
    const isBelow = (line + 1) * rowHeight > top + (scroller.current?.clientHeight ?? 0);
    const ahead = isAbove || (isUp && !isBelow) ? -rowsAhead : rowsAhead;
    virtual.scrollToIndex(Math.max(0, Math.min(layout.lines - 1, line + ahead)));
  };

  const select = async (at: number, id: string, e: { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean }) => {
    onActive(id);
    setActiveAt(at);
    if (e.shiftKey && anchor !== null) {
      const [from, to] = [Math.min(anchor, at), Math.max(anchor, at)];
      const here = Array.from({ length: to - from + 1 }, (_, n) => rows.at(from + n)?.id);
      // Only what is out of sight has to be asked for.
      setSelected(new Set(here.every((known) => known !== undefined) ? here : await rows.ids(from, to)));
    } else if (e.ctrlKey || e.metaKey) {
      const next = new Set(selected);
      if (!next.delete(id)) next.add(id);
      setSelected(next);
      setAnchor(at);
    } else {
      setSelected(new Set([id]));
      setAnchor(at);
    }
  };

  /** Where the active file stands now: the list may have been sorted anew since it was chosen. */
  const placeOfActive = async () => {
    if (active === null) return -1;
    if (activeAt !== null && rows.at(activeAt)?.id === active) return activeAt;
    return (await rows.positionOf(active)) ?? -1;
  };

  const go = async (to: (at: number) => number, e: { shiftKey: boolean }) => {
    const at = Math.min(total - 1, Math.max(0, to(await placeOfActive())));
    toLine(layout.lineOf(at), at < (activeAt ?? 0));
    const file = await rows.load(at);
    if (!file) return;
    await select(at, file.id, { ...noModifiers, shiftKey: e.shiftKey });
    // Whoever listens and moves on listens to the next one.
    const next = heardFor(file);
    if (playing && usePlayer.getState().follows && next) usePlayer.getState().play(sessionId, next);
  };

  // The box that was pressed last; another narrowing has other rows.
  const lastBox = useRef<{ at: number; narrowing: string } | null>(null);
  const markTo = async (at: number, on: boolean, isRange: boolean) => {
    if (!marks) return;
    const from = isRange && lastBox.current?.narrowing === rows.narrowing ? lastBox.current.at : at;
    lastBox.current = { at, narrowing: rows.narrowing };
    const only = rows.at(at);
    // One alone is in sight: nobody has to be asked for it.
    if (from === at && only) return marks.mark([only.id], on);
    const known = new Map(rows.loaded.map((f) => [f.id, f]));
    const ids = await rows.ids(Math.min(from, at), Math.max(from, at));
    // Of those out of sight whoever marks them knows which can be.
    marks.mark(
      ids.filter((id) => {
        const file = known.get(id);
        return file === undefined || marks.able(file);
      }),
      on,
    );
  };

  const goTo = async (id: string) => {
    const at = await rows.positionOf(id);
    if (at !== null && at >= 0) await go(() => at, noModifiers);
  };

  // What is chosen elsewhere, beside the list, comes into sight in it.
  const follow = useEffectEvent(async () => {
    if (active === null || (activeAt !== null && rows.at(activeAt)?.id === active)) return;
    const at = await rows.positionOf(active);
    if (at === null || at < 0) return;
    setActiveAt(at);
    setAnchor(at);
    setSelected(new Set([active]));
    toLine(layout.lineOf(at), false);
  });
  useEffect(() => {
    if (active !== null) void follow();
  }, [active]);

  const toggle = (ids: readonly string[]) => {
    if (!marks) return;
    const asked = new Set(ids);
    const chosen = rows.loaded.filter((f) => asked.has(f.id));
    const able = chosen.filter(marks.able);
    // Of those out of sight whoever marks them knows which can be.
    for (const file of chosen) if (!marks.able(file)) asked.delete(file.id);
    if (asked.size > 0) marks.mark([...asked], able.length === 0 || !able.every(marks.has));
  };

  const onKeyDown = useEffectEvent((e: KeyboardEvent) => {
    // What stands in the grid and takes keys of its own has them.
    if ((e.target as HTMLElement).closest("input, button")) return;
    const page = Math.max(1, Math.floor((scroller.current?.clientHeight ?? 320) / rowHeight) - 1);
    const steps: Record<string, (at: number) => number> = {
      ArrowDown: (at) => at + 1,
      ArrowUp: (at) => at - 1,
      Home: () => 0,
      End: () => total - 1,
      PageDown: (at) => at + page,
      PageUp: (at) => at - page,
    };
    const step = steps[e.key];
    if (step && total > 0) {
      e.preventDefault();
      void go(step, e);
    } else if (isMenuKey(e)) {
      e.preventDefault();
      const row = document.getElementById(`file-${active}`)?.getBoundingClientRect();
      if (row) setMenuAt({ x: row.left + 40, y: row.bottom });
    } else if (judge?.[e.key.toLowerCase()] && !e.ctrlKey && !e.metaKey && !e.altKey) {
      e.preventDefault();
      const file = rows.loaded.find((f) => f.id === active);
      if (!file) return;
      const next = judge[e.key.toLowerCase()]?.(file);
      if (next === undefined) void go((at) => at + 1, noModifiers);
      else if (next !== null) void goTo(next);
    } else if (e.key === " ") {
      e.preventDefault();
      const file = rows.loaded.find((f) => f.id === active);
      const asked = file && heardFor(file);
      if (asked) usePlayer.getState().toggle(sessionId, asked);
    } else if (e.key === "Enter" && !e.ctrlKey && !e.metaKey) {
      e.preventDefault();
      toggle([...selected]);
    } else if (e.key === "a" && (e.ctrlKey || e.metaKey)) {
      e.preventDefault();
      void rows.ids(0, total - 1).then((ids) => setSelected(new Set(ids)));
    } else if (e.key === "Escape") {
      tools?.onText("");
      onActive(null);
    }
  });

  const onContextMenu = useEffectEvent((e: MouseEvent) => {
    const row = (e.target as HTMLElement).closest<HTMLElement>("tr[data-at]");
    if (!row || e.button !== 2) return;
    e.preventDefault();
    void select(Number(row.dataset.at), row.id.replace(/^file-/, ""), noModifiers);
    setMenuAt({ x: e.clientX, y: e.clientY });
  });

  const onClick = useEffectEvent((e: MouseEvent) => {
    const target = e.target as HTMLElement;
    const row = target.closest("tr");
    const id = row?.id.replace(/^file-/, "");
    if (id && row?.dataset.at && !target.closest("input")) void select(Number(row.dataset.at), id, e);
  });

  // The grid takes keys and clicks for all its rows, of which only those in sight exist.
  useEffect(() => {
    const table = grid.current;
    const key = (e: KeyboardEvent) => onKeyDown(e);
    const click = (e: MouseEvent) => onClick(e);
    const menu = (e: MouseEvent) => onContextMenu(e);
    table?.addEventListener("keydown", key);
    table?.addEventListener("click", click);
    table?.addEventListener("contextmenu", menu);
    return () => {
      table?.removeEventListener("contextmenu", menu);
      table?.removeEventListener("keydown", key);
      table?.removeEventListener("click", click);
    };
  }, []);

  const atHand = rows.loaded.find((f) => f.id === active);
  const own: RareAction[] = atHand
    ? [
        {
          label: playing && heardFor(atHand)?.id === heard ? "Pause" : "Hear",
          disabled: heardFor(atHand) === null,
          act: () => {
            const asked = heardFor(atHand);
            if (asked) usePlayer.getState().toggle(sessionId, asked);
          },
        },
        ...(marks?.able(atHand)
          ? [{ label: marks.has(atHand) ? "Unmark" : "Mark", act: () => marks.mark([atHand.id], !marks.has(atHand)) }]
          : []),
      ]
    : [];

  const onHeader = (column: string) => rows.onSort({ column, down: sort.column === column ? !sort.down : false });

  return (
    <section
      ref={list}
      className={`${css.fileList} ${marks ? css.withMarks : ""}`}
      data-list={kind.name}
      aria-label="Files"
      style={{ "--columns": columns.template } as CSSProperties}
    >
      <div className={css.listTools}>
        {search}
        {tools && (
          <>
            <Input
              ref={filterInput}
              allowClear
              size="small"
              placeholder="Filter ( / )"
              aria-label="Filter files"
              value={tools.text}
              onChange={(e) => tools.onText(e.target.value)}
              onKeyDown={(e) => {
                if (e.key === "Escape") {
                  tools.onText("");
                  grid.current?.focus();
                }
              }}
            />
            {kind.groupings.length > 0 && (
              <Choices<FileGrouping>
                label="Group files"
                value={tools.grouping}
                onChange={tools.onGrouping}
                options={[
                  ...(kind.isAlwaysGrouped ? [] : [{ value: "None" as const, label: "no groups" }]),
                  ...kind.groupings.map((g) => ({ value: g.key, label: g.label })),
                ]}
              />
            )}
          </>
        )}
        <ViewMenu rows={rows} columns={columns} />
        {rows.error ? (
          <span className="trouble" role="alert">
            {rows.error.message}
          </span>
        ) : (
          <span className={`mono quiet ${css.listCount}`}>
            {rows.first === undefined
              ? "looking…"
              : total === all
                ? count(total, "file")
                : `${number(total)} of ${count(all, "file")}`}
          </span>
        )}
      </div>
      {tools && tools.only.length > 0 && (
        <p className={css.listOnly} role="status">
          <span>
            Only <strong>{tools.only.join(" and ")}</strong>
          </span>
          <Button size="small" onClick={tools.onEverything}>
            Show everything
          </Button>
        </p>
      )}
      {selected.size > 1 && (
        <p className={css.listOnly} role="status">
          <span>{selectedWords(selected, rows.loaded)}</span>
          {marks && (
            <Button size="small" onClick={() => toggle([...selected])}>
              Mark or unmark
            </Button>
          )}
          <Button size="small" type="text" onClick={() => setSelected(new Set())}>
            Clear selection
          </Button>
        </p>
      )}
      <div className={css.scroller} ref={scroller}>
        <table
          className={css.grid}
          aria-label="Files of the session"
          aria-rowcount={layout.lines + 1}
          {...gridRole(active)}
          ref={grid}
        >
          <thead>
            <tr className={`${css.row} ${css.head}`} aria-rowindex={1}>
              {marks && (
                <th scope="col" className={css.cMark}>
                  <input
                    type="checkbox"
                    aria-label="Mark all shown files"
                    checked={marks.all === true}
                    disabled={marks.all === null}
                    onChange={() => marks.markAll(marks.all !== true)}
                  />
                </th>
              )}
              {columns.shown.map((c) => (
                <th
                  scope="col"
                  key={c.key}
                  className={c.className}
                  aria-sort={sort.column === c.key ? (sort.down ? "descending" : "ascending") : "none"}
                >
                  {rows.isSortable(c) ? (
                    <button type="button" tabIndex={-1} onClick={() => onHeader(c.key)}>
                      {titleOf(c)}
                      {sort.column === c.key && <i className={sort.down ? css.down : css.up} />}
                    </button>
                  ) : (
                    titleOf(c)
                  )}
                  <ColumnEdge column={c} columns={columns} />
                </th>
              ))}
            </tr>
          </thead>
          <tbody className={css.rows} style={{ height: virtual.getTotalSize() }}>
            {items.map((item) => {
              const row = layout.at(item.index);
              const style = { transform: `translateY(${item.start}px)` };
              if ("group" in row) {
                return (
                  <tr
                    className={`${css.row} ${css.group}`}
                    aria-rowindex={item.index + 2}
                    style={style}
                    key={`group ${row.group.title}`}
                  >
                    <td>
                      {row.group.title}{" "}
                      <small>{`${count(row.group.files, "file")}${row.group.bytes > 0 ? `, ${size(row.group.bytes)}` : ""}`}</small>
                      {groupAction?.(row.group)}
                    </td>
                  </tr>
                );
              }
              const file = rows.at(row.file);
              return file ? (
                <FileRow
                  key={file.id}
                  file={file}
                  at={row.file}
                  columns={columns.shown}
                  index={item.index + 2}
                  style={style}
                  active={file.id === active}
                  playing={playing && heard !== null && heardFor(file)?.id === heard}
                  selected={selected.has(file.id)}
                  marks={marks}
                  onMark={(on, isRange) => void markTo(row.file, on, isRange)}
                />
              ) : (
                <tr className={css.row} aria-rowindex={item.index + 2} style={style} key={`at ${row.file}`}>
                  <td colSpan={columns.shown.length + (marks ? 1 : 0)} />
                </tr>
              );
            })}
          </tbody>
        </table>
        {menuAt && atHand && (
          <FileMenu
            file={sound?.(atHand) ?? atHand}
            at={menuAt}
            own={own}
            onClose={() => {
              setMenuAt(null);
              grid.current?.focus();
            }}
          />
        )}
        {rows.first !== undefined && total === 0 && (
          <p className={css.listEmpty}>
            {tools?.text
              ? `No file has “${tools.text}” in its name, track or shelf.`
              : tools && tools.only.length > 0
                ? `No file is ${tools.only.join(" or ")} now.`
                : empty}
          </p>
        )}
      </div>
    </section>
  );
}

/** The edge of a column, which is drawn to make it wider or narrower. */
function ColumnEdge({ column, columns }: { column: Column; columns: Columns }) {
  const draw = (e: React.PointerEvent<HTMLButtonElement>) => {
    const head = e.currentTarget.parentElement;
    if (!head) return;
    const [from, width] = [e.clientX, head.getBoundingClientRect().width];
    const edge = e.currentTarget;
    const move = (m: PointerEvent) => columns.setWidth(column, width + m.clientX - from);
    edge.setPointerCapture(e.pointerId);
    edge.addEventListener("pointermove", move);
    edge.addEventListener("lostpointercapture", () => edge.removeEventListener("pointermove", move), { once: true });
  };
  return (
    <button
      type="button"
      tabIndex={-1}
      className={css.columnEdge}
      aria-label={`Width of the column ${column.title || "Standing"}`}
      onPointerDown={draw}
    />
  );
}

/** How the list is sorted, and which columns are in sight: all that its head does by mouse, for the keyboard as well. */
function ViewMenu({ rows, columns }: { rows: FileRows; columns: Columns }) {
  const { kind, sort } = rows;
  const titleFor = (c: Column) => c.title || "Standing";
  return (
    <Popover
      trigger="click"
      placement="bottomRight"
      content={
        <div className={css.viewMenu}>
          <Choices
            label="Direction"
            value={sort.down ? "down" : "up"}
            onChange={(to) => rows.onSort({ ...sort, down: to === "down" })}
            options={[
              { value: "up", label: "first to last" },
              { value: "down", label: "last to first" },
            ]}
          />
          <fieldset>
            <legend>Sort by</legend>
            {kind.columns
              .filter((c) => rows.isSortable(c))
              .map((c) => (
                <label key={c.key}>
                  <input
                    type="radio"
                    name="sort by"
                    checked={sort.column === c.key}
                    onChange={() => rows.onSort({ ...sort, column: c.key })}
                  />{" "}
                  {titleFor(c)}
                </label>
              ))}
          </fieldset>
          <fieldset>
            <legend>Columns</legend>
            {kind.columns
              .filter((c) => c.key !== "name")
              .map((c) => (
                <label key={c.key}>
                  <input
                    type="checkbox"
                    checked={!columns.isHidden(c)}
                    onChange={(e) => columns.hide(c, !e.target.checked)}
                  />{" "}
                  {titleFor(c)}
                </label>
              ))}
            <Button size="small" disabled={!columns.isChanged} onClick={columns.reset}>
              As at first
            </Button>
          </fieldset>
        </div>
      }
    >
      <Button size="small" type="text">
        View
      </Button>
    </Popover>
  );
}

interface RowProps {
  file: FileEntry;
  /** Its place in the list. */
  at: number;
  columns: readonly Column[];
  index: number;
  style: { transform: string };
  active: boolean;
  playing: boolean;
  selected: boolean;
  marks: Marks | null;
  /** Marks it, or with Shift all from the box that was pressed last. */
  onMark: (on: boolean, isRange: boolean) => void;
}

function FileRow({ file, at, columns, index, style, active, playing, selected, marks, onMark }: RowProps) {
  const isMarked = marks?.has(file) ?? false;
  return (
    <tr
      id={`file-${file.id}`}
      data-at={at}
      className={`${css.row} ${active ? css.active : ""} ${playing ? css.playing : ""} ${selected ? css.selected : ""}`}
      aria-rowindex={index}
      aria-selected={selected}
      style={style}
    >
      {marks && (
        <td className={css.cMark}>
          {marks.able(file) && (
            <input
              type="checkbox"
              tabIndex={-1}
              aria-label={`Mark ${file.name}`}
              checked={isMarked}
              onChange={(e) => onMark(!isMarked, (e.nativeEvent as MouseEvent).shiftKey)}
            />
          )}
        </td>
      )}
      {columns.map((c) => (
        <td key={c.key} className={c.className} title={c.hint?.(file)}>
          {c.cell(file)}
        </td>
      ))}
    </tr>
  );
}
