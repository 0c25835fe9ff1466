import { Button } from "antd";
import {
  type FocusEvent,
  type KeyboardEvent,
  type MouseEvent,
  useEffect,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
} from "react";
import type { Backups, SaveChange, Version } from "../api/types";
import { count } from "../words";
import css from "./backups.module.css";
import { byDay, hourText, ledTo, spanOf, spanOfDay } from "./days";
import { LogbookDay } from "./LogbookDay";
import { LogbookMonths } from "./LogbookMonths";
import { useComparedFor, useSaveChanges } from "./queries";
import { versionLabel } from "./words";

interface Props {
  id: string;
  backups: Backups;
  /** Keys of the chosen versions, two at the most. */
  chosen: readonly string[];
  onChoose: (keys: readonly string[]) => void;
}

const daysAtFirst = 30;

/** Days downwards, the hours that were worked across: a mark for each kept save with what it changed, a tall one for a full backup, further places below. */
export function Logbook({ id, backups, chosen, onChoose }: Props) {
  const [pointed, setPointed] = useState<Version | null>(null);
  const [most, setMost] = useState(daysAtFirst);
  const [until, setUntil] = useState<string | null>(null);
  const [openDate, setOpenDate] = useState<string | null>(null);
  const days = useMemo(() => byDay(backups.versions), [backups.versions]);
  const opened = days.find((d) => d.date === openDate);
  const listed = until === null ? days : days.filter((d) => d.date.slice(0, 7) <= until);
  const shown = opened ? [opened] : listed.slice(0, most);
  const span = useMemo(
    () => (opened ? spanOfDay(opened.versions) : spanOf(backups.versions)),
    [opened, backups.versions],
  );
  const lines = Array.from(
    { length: Math.round((span.to - span.from) / span.step) + 1 },
    (_, n) => span.from + n * span.step,
  );
  const book = useRef<HTMLElement>(null);
  const [hours, width] = useWidth();
  // From the oldest that is in sight on: what changed is asked for no further back.
  const oldest = shown.at(-1)?.date;
  const needed = days
    .filter((d) => oldest !== undefined && d.date >= oldest)
    .reduce((sum, d) => sum + d.versions.length, 0);
  const changes = useSaveChanges(id, backups.versions, needed);
  const { second } = backups.status;
  // One vault is told by its marks alone; of several each has a line.
  const vaults = [...new Set(backups.versions.flatMap((v) => (v.vault === null ? [] : [v.vault])))].toSorted();
  const vaultLines = vaults.length > 1 ? vaults : [];
  const choose = (version: Version, both: boolean) => {
    const [first] = chosen;
    if (both && first && first !== version.key) onChoose([first, version.key]);
    else onChoose(chosen.length === 1 && first === version.key ? [] : [version.key]);
  };
  const versionAt = (e: { target: EventTarget }) => {
    const key = (e.target as Element).closest<HTMLElement>("[data-version]")?.dataset.version;
    return key === undefined ? undefined : backups.versions.find((v) => v.key === key);
  };
  const move = (e: KeyboardEvent) => {
    const at = versionAt(e);
    if (!at) return;
    if (e.key === "+" || e.key === "-") {
      e.preventDefault();
      setOpenDate(e.key === "+" ? (days.find((d) => d.versions.includes(at))?.date ?? null) : null);
      return;
    }
    const next = ledTo(shown, at.key, e.key);
    if (!next) return;
    e.preventDefault();
    book.current?.querySelector<HTMLElement>(`[data-version="${CSS.escape(next)}"]`)?.focus();
  };
  // Whoever passes over marks asks for none of them.
  const waits = useRef<ReturnType<typeof setTimeout>>(undefined);
  useEffect(() => () => clearTimeout(waits.current), []);
  const point = (e: MouseEvent | FocusEvent) => {
    const version = versionAt(e);
    clearTimeout(waits.current);
    if (version) waits.current = setTimeout(() => setPointed(version), restMs);
  };
  const press = (e: MouseEvent) => {
    const band = (e.target as Element).closest<HTMLElement>("[data-opens]")?.dataset.opens;
    const version = versionAt(e);
    // A key that presses a mark means that mark; the mouse means the band, of which it could hit no mark for certain.
    if (band !== undefined && e.detail > 0) setOpenDate(band);
    else if (version) choose(version, e.shiftKey || e.ctrlKey || e.metaKey);
  };
  // One mark of all is reached by the tab key; from there the arrows go on.
  const inSight = shown.flatMap((d) => d.versions);
  const reached = inSight.find((v) => v.key === chosen[0])?.key ?? shown[0]?.versions.at(-1)?.key;
  return (
    // The marks are buttons; what is done with them is heard here once for all.
    <section
      ref={book}
      className={css.logbook}
      aria-label="Logbook"
      onKeyDown={move}
      onMouseOver={point}
      onFocus={point}
      onClick={press}
    >
      <div className={css.logbookHead}>
        <Pointed
          id={id}
          versions={backups.versions}
          version={pointed}
          change={pointed ? changes.get(pointed.key) : undefined}
        />
        <Legend second={second} lines={vaultLines} />
        <LogbookMonths
          days={days}
          until={until}
          onUntil={(month) => {
            setUntil(month);
            setMost(daysAtFirst);
            setOpenDate(null);
          }}
        />
        <div className={css.hours} aria-hidden="true" ref={hours}>
          {lines.map((h) => (
            <span key={h} style={{ left: `${((h - span.from) / (span.to - span.from)) * 100}%` }}>
              {hourText(h)}
            </span>
          ))}
        </div>
      </div>
      <ol>
        {shown.map((day) => (
          <LogbookDay
            key={day.date}
            day={day}
            span={span}
            width={width}
            changes={changes}
            chosen={chosen}
            reached={reached}
            isOpen={day === opened}
            onOpen={() => setOpenDate(day === opened ? null : day.date)}
            second={second}
            vaults={vaultLines}
          />
        ))}
      </ol>
      {!opened && listed.length > most && (
        <Button onClick={() => setMost(most * 4)}>Show {count(listed.length - most, "earlier day")}</Button>
      )}
    </section>
  );
}

/** So long a mark is pointed at before it is told what it changed, in milliseconds. */
const restMs = 150;

/** The width of an element in pixels, as it is now. */
function useWidth() {
  const box = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(0);
  useLayoutEffect(() => {
    if (!box.current) return;
    setWidth(box.current.clientWidth);
    const watch = new ResizeObserver(([entry]) => entry && setWidth(Math.round(entry.contentRect.width)));
    watch.observe(box.current);
    return () => watch.disconnect();
  }, []);
  return [box, width] as const;
}

function Legend({ second, lines }: { second: string | null; lines: readonly string[] }) {
  return (
    <p className={`${css.legend} quiet`}>
      <span>
        <i className={css.small} /> kept save
      </span>
      <span>
        <i className={css.tall} /> full backup
      </span>
      <span>
        <i className={css.came} /> clips came <i className={css.went} /> clips went
      </span>
      {second && (
        <span>
          <i className={css.held} /> in {second} too <i className={css.gap} /> not there
        </span>
      )}
      {lines.length > 0 && (
        <span>
          <i className={css.held} /> in a vault, a line each: {lines.join(", ")}
        </span>
      )}
      <span>Click one to see what changed since; Shift + click a second one to compare the two.</span>
    </p>
  );
}

interface PointedProps {
  id: string;
  versions: readonly Version[];
  version: Version | null;
  change: SaveChange | undefined;
}

/** What the mark at hand changed, against the version before it of the same document. */
function Pointed({ id, versions, version, change }: PointedProps) {
  // Of saves it is known already; of a full backup it is asked.
  const before =
    version && !change
      ? versions.slice(versions.indexOf(version) + 1).find((v) => v.document === version.document)
      : undefined;
  const comparison = useComparedFor(id, before?.key, version?.key);
  const told = change?.sentence ?? comparison.data ?? comparison.error?.message;
  return (
    <p className={css.pointed} aria-live="polite">
      {version ? (
        <>
          <strong>{versionLabel(version)}</strong> {told ?? (before ? "" : "The first that is kept.")}
        </>
      ) : (
        <span className="quiet">Point at a mark to read what it changed; + opens its day, − shows all.</span>
      )}
    </p>
  );
}
