import { useVirtualizer } from "@tanstack/react-virtual";
import { Input, type InputRef, Segmented } from "antd";
import { type ReactNode, useEffect, useEffectEvent, useMemo, useRef, useState } from "react";
import type { FileEntry } from "../api/types";
import { isTyping } from "../frame/TopStrip";
import { usePlayer } from "../listening/player";
import { isAudible } from "../listening/usePeaks";
import { useSessionId } from "../session/sessionContext";
import { count, number, size } from "../words";
import { type Column, fileList, type ListKind, standsOn } from "./columns";
import "./files.css";

interface Props {
  files: readonly FileEntry[];
  /** What is shown of them. */
  kind?: ListKind;
  /** Files that the plan takes; without it the list has no marks. */
  marked?: ReadonlySet<string>;
  onMark?: (ids: ReadonlySet<string>) => void;
  /** Whether a file can be marked at all. */
  markable?: (file: FileEntry) => boolean;
  active: string | null;
  onActive: (id: string | null) => void;
  empty: string;
  /** Looking for files elsewhere than in this list; without it the list has a filter of its own. */
  search?: ReactNode;
  /** How many files there are, where the list holds only the first of them. */
  total?: number;
  /** Called where files are sorted elsewhere: the list keeps them in the order in which they come. */
  sorted?: { by: Sort; onSort: (by: Sort) => void };
  /** Called when the end of the list comes near; nothing where nothing more can come now. */
  onEnd?: (() => void) | undefined;
}

export type Sort = ListKind["first"];

const rowHeight = 32;

/** So near to the end of what has come the list asks for more: about ten times what is in sight. */
const rowsBeforeEnd = 150;

/** A table that takes the keyboard for all its rows is a grid (ARIA Authoring Practices, "Grid (Interactive Tabular Data)"). */
const gridRole = (active: string | null) => ({
  role: "grid",
  tabIndex: 0,
  "aria-multiselectable": true,
  "aria-activedescendant": active ? `file-${active}` : undefined,
});

const titleOf = (column: Column) => column.title || <span className="unseen">Standing</span>;

type Row = { kind: "group"; title: string; files: number; bytes: number } | { kind: "file"; file: FileEntry };

/** The one list of files: virtual rows with table roles, sorted, grouped, filtered, and worked with the keyboard alone. */
export function FileList({
  files,
  kind = fileList,
  marked,
  onMark,
  markable = () => true,
  active,
  onActive,
  empty,
  search,
  total = files.length,
  sorted,
  onEnd,
}: Props) {
  const [filter, setFilter] = useState("");
  const [ownSort, setOwnSort] = useState(kind.first);
  const sort = sorted?.by ?? ownSort;
  const isSortedHere = sorted === undefined;
  const [grouping, setGrouping] = useState("none");
  const [selected, setSelected] = useState<ReadonlySet<string>>(new Set());
  const [anchor, setAnchor] = useState<string | null>(null);
  const scroller = useRef<HTMLDivElement>(null);
  const grid = useRef<HTMLTableElement>(null);
  const filterInput = useRef<InputRef>(null);
  const sessionId = useSessionId();
  // Only what the rows show: where a sound is changes several times a second.
  const playing = usePlayer((p) => p.playing);
  const heard = usePlayer((p) => p.fileId);

  const shown = useMemo(() => {
    const words = filter.trim().toLowerCase();
    const column = kind.columns.find((c) => c.key === sort.column) ?? kind.columns[0];
    const value = (file: FileEntry) => column?.value(file) ?? "";
    const fitting = files.filter(
      (f) =>
        words === "" ||
        `${f.shownPath} ${f.tracks.join(" ")} ${f.take?.track ?? ""} ${standsOn(f)}`.toLowerCase().includes(words),
    );
    return isSortedHere
      ? fitting.sort((a, b) => {
          const [x, y] = [value(a), value(b)];
          const order = x < y ? -1 : x > y ? 1 : a.shownPath < b.shownPath ? -1 : 1;
          return sort.down ? -order : order;
        })
      : fitting;
  }, [files, filter, sort, kind, isSortedHere]);
  const groupOf = kind.groupings.find((g) => g.key === grouping)?.of ?? null;
  const rows = useMemo(() => group(shown, groupOf), [shown, groupOf]);
  const order = useMemo(() => rows.flatMap((r) => (r.kind === "file" ? [r.file.id] : [])), [rows]);

  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => rowHeight,
    overscan: 12,
  });

  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (e.key === "/" && !isTyping(e)) {
        e.preventDefault();
        filterInput.current?.focus();
      }
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);

  const select = (id: string, e: { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean }) => {
    onActive(id);
    if (e.shiftKey && anchor) {
      const [a, b] = [order.indexOf(anchor), order.indexOf(id)];
      setSelected(new Set(order.slice(Math.min(a, b), Math.max(a, b) + 1)));
    } else if (e.ctrlKey || e.metaKey) {
      const next = new Set(selected);
      if (!next.delete(id)) next.add(id);
      setSelected(next);
      setAnchor(id);
    } else {
      setSelected(new Set([id]));
      setAnchor(id);
    }
  };

  const mark = (ids: string[], on?: boolean) => {
    if (!marked || !onMark) return;
    const able = files.filter((f) => ids.includes(f.id) && markable(f)).map((f) => f.id);
    const add = on ?? !able.every((id) => marked.has(id));
    const next = new Set(marked);
    for (const id of able) {
      if (add) next.add(id);
      else next.delete(id);
    }
    onMark(next);
  };

  const onKeyDown = useEffectEvent((e: KeyboardEvent) => {
    const at = active ? order.indexOf(active) : -1;
    const page = Math.max(1, Math.floor((scroller.current?.clientHeight ?? 320) / rowHeight) - 1);
    const steps: Record<string, number> = {
      ArrowDown: at + 1,
      ArrowUp: at - 1,
      Home: 0,
      End: order.length - 1,
      PageDown: at + page,
      PageUp: at - page,
    };
    if (e.key in steps && order.length > 0) {
      e.preventDefault();
      const id = order[Math.min(order.length - 1, Math.max(0, steps[e.key] ?? 0))];
      if (!id) return;
      select(id, { shiftKey: e.shiftKey, ctrlKey: false, metaKey: false });
      const file = files.find((f) => f.id === id);
      // Whoever listens and moves on listens to the next one.
      if (playing && file && isAudible(file)) usePlayer.getState().play(sessionId, file);
      virtual.scrollToIndex(rows.findIndex((r) => r.kind === "file" && r.file.id === id));
    } else if (e.key === " ") {
      e.preventDefault();
      const file = files.find((f) => f.id === active);
      if (file && isAudible(file)) usePlayer.getState().toggle(sessionId, file);
    } else if (e.key === "Enter" && !e.ctrlKey) {
      e.preventDefault();
      mark([...selected]);
    } else if (e.key === "a" && (e.ctrlKey || e.metaKey)) {
      e.preventDefault();
      setSelected(new Set(order));
    } else if (e.key === "Escape") {
      setFilter("");
      onActive(null);
    }
  });

  const onClick = useEffectEvent((e: MouseEvent) => {
    const target = e.target as HTMLElement;
    const id = target.closest("tr")?.id.replace(/^file-/, "");
    if (id && !target.closest("input")) select(id, e);
  });

  // The grid takes keys and clicks for all its rows, of which only those in sight exist.
  useEffect(() => {
    const table = grid.current;
    const key = (e: KeyboardEvent) => onKeyDown(e);
    const click = (e: MouseEvent) => onClick(e);
    table?.addEventListener("keydown", key);
    table?.addEventListener("click", click);
    return () => {
      table?.removeEventListener("keydown", key);
      table?.removeEventListener("click", click);
    };
  }, []);

  const onHeader = (column: string) =>
    (sorted?.onSort ?? setOwnSort)({ column, down: sort.column === column ? !sort.down : false });
  const lastInSight = virtual.getVirtualItems().at(-1)?.index ?? 0;
  // The number of rows, so that an end that is near still after more came is heard of again.
  const endNear = onEnd && lastInSight >= rows.length - rowsBeforeEnd ? rows.length : 0;
  const atEnd = useEffectEvent(() => onEnd?.());
  useEffect(() => {
    if (endNear > 0) atEnd();
  }, [endNear]);
  const able = shown.filter(markable);
  const allMarked = able.length > 0 && able.every((f) => marked?.has(f.id));

  return (
    <section className={`file-list ${kind.className} ${marked ? "with-marks" : ""}`} aria-label="Files">
      <div className="list-tools">
        {search ?? (
          <>
            <Input
              ref={filterInput}
              allowClear
              size="small"
              placeholder="Filter ( / )"
              aria-label="Filter files"
              value={filter}
              onChange={(e) => setFilter(e.target.value)}
              onKeyDown={(e) => {
                if (e.key === "Escape") {
                  setFilter("");
                  grid.current?.focus();
                }
              }}
            />
            <Segmented
              size="small"
              aria-label="Group files"
              value={grouping}
              onChange={setGrouping}
              options={[
                { value: "none", label: "no groups" },
                ...kind.groupings.map((g) => ({ value: g.key, label: g.label })),
              ]}
            />
          </>
        )}
        <span className="mono quiet list-count">
          {shown.length === total ? count(total, "file") : `${number(shown.length)} of ${count(total, "file")}`}
        </span>
      </div>
      <div className="scroller" ref={scroller}>
        <table
          className="grid"
          aria-label="Files of the session"
          aria-rowcount={(sorted ? total : rows.length) + 1}
          {...gridRole(active)}
          ref={grid}
        >
          <thead>
            <tr className="row head" aria-rowindex={1}>
              {marked && (
                <th scope="col" className="c-mark">
                  <input
                    type="checkbox"
                    aria-label="Take all shown files"
                    checked={allMarked}
                    disabled={able.length === 0}
                    onChange={() =>
                      mark(
                        able.map((f) => f.id),
                        !allMarked,
                      )
                    }
                  />
                </th>
              )}
              {kind.columns.map((c) => (
                <th
                  scope="col"
                  key={c.key}
                  className={c.className}
                  aria-sort={sort.column === c.key ? (sort.down ? "descending" : "ascending") : "none"}
                >
                  {isSortedHere || c.order ? (
                    <button type="button" tabIndex={-1} onClick={() => onHeader(c.key)}>
                      {titleOf(c)}
                      {sort.column === c.key && <i className={sort.down ? "down" : "up"} />}
                    </button>
                  ) : (
                    titleOf(c)
                  )}
                </th>
              ))}
            </tr>
          </thead>
          <tbody className="rows" style={{ height: virtual.getTotalSize() }}>
            {virtual.getVirtualItems().map((item) => {
              const row = rows[item.index];
              if (!row) return null;
              const style = { transform: `translateY(${item.start}px)` };
              return row.kind === "group" ? (
                <tr className="row group" aria-rowindex={item.index + 2} style={style} key={`group ${row.title}`}>
                  <td>
                    {row.title} <small>{`${count(row.files, "file")}, ${size(row.bytes)}`}</small>
                  </td>
                </tr>
              ) : (
                <FileRow
                  key={row.file.id}
                  file={row.file}
                  columns={kind.columns}
                  index={item.index + 2}
                  style={style}
                  active={row.file.id === active}
                  playing={playing && row.file.id === heard}
                  selected={selected.has(row.file.id)}
                  marked={marked?.has(row.file.id)}
                  markable={markable(row.file)}
                  onMark={() => mark([row.file.id])}
                />
              );
            })}
          </tbody>
        </table>
        {rows.length === 0 && (
          <p className="list-empty">{filter ? `No file has “${filter}” in its name, track or shelf.` : empty}</p>
        )}
      </div>
    </section>
  );
}

interface RowProps {
  file: FileEntry;
  columns: readonly Column[];
  index: number;
  style: { transform: string };
  active: boolean;
  playing: boolean;
  selected: boolean;
  marked: boolean | undefined;
  markable: boolean;
  onMark: () => void;
}

function FileRow({ file, columns, index, style, active, playing, selected, marked, markable, onMark }: RowProps) {
  return (
    <tr
      id={`file-${file.id}`}
      className={`row ${active ? "active" : ""} ${playing ? "playing" : ""} ${selected ? "selected" : ""}`}
      aria-rowindex={index}
      aria-selected={selected}
      style={style}
    >
      {marked !== undefined && (
        <td className="c-mark">
          {markable && (
            <input type="checkbox" tabIndex={-1} aria-label={`Take ${file.name}`} checked={marked} onChange={onMark} />
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

function group(files: readonly FileEntry[], of: ((file: FileEntry) => string) | null): Row[] {
  if (!of) return files.map((file) => ({ kind: "file", file }));
  const groups = new Map<string, FileEntry[]>();
  for (const file of files) {
    const title = of(file);
    const members = groups.get(title);
    if (members) members.push(file);
    else groups.set(title, [file]);
  }
  return [...groups].flatMap(([title, members]): Row[] => [
    { kind: "group", title, files: members.length, bytes: members.reduce((sum, f) => sum + f.bytes, 0) },
    ...members.map((file): Row => ({ kind: "file", file })),
  ]);
}
