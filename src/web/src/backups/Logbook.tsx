import { Button } from "antd";
import {
  type FocusEvent,
  type KeyboardEvent,
  type MouseEvent,
  memo,
  useEffect,
  useMemo,
  useRef,
  useState,
} from "react";
import type { Backups, Version } from "../api/types";
import { count } from "../words";
import css from "./backups.module.css";
import { byDay, ledTo, shareOfSpan, spanOf } from "./days";
import { useComparedFor } from "./queries";
import { versionLabel } from "./words";

interface Props {
  id: string;
  backups: Backups;
  /** Keys of the chosen versions, two at the most. */
  chosen: readonly string[];
  onChoose: (keys: readonly string[]) => void;
}

const daysAtFirst = 30;
const dayName = new Intl.DateTimeFormat("en-GB", { weekday: "short", day: "numeric", month: "short" });

/** Days downwards, the hours that were worked across: a small mark for each kept save, a tall one for a full backup, further places below. */
export function Logbook({ id, backups, chosen, onChoose }: Props) {
  const [pointed, setPointed] = useState<Version | null>(null);
  const [most, setMost] = useState(daysAtFirst);
  const days = useMemo(() => byDay(backups.versions), [backups.versions]);
  const span = useMemo(() => spanOf(backups.versions), [backups.versions]);
  const parts = (span.to - span.from) / span.step;
  const place = (v: Version) => ({ left: `${shareOfSpan(v, span) * 100}%` });
  const book = useRef<HTMLElement>(null);
  const { second } = backups.status;
  // One vault is told by its marks alone; of several each has a line.
  const vaults = [...new Set(backups.versions.flatMap((v) => (v.vault === null ? [] : [v.vault])))].toSorted();
  const lines = vaults.length > 1 ? vaults : [];
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
    const next = at && ledTo(days.slice(0, most), at.key, e.key);
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
  // One mark of all is reached by the tab key; from there the arrows go on.
  const reached = chosen[0] ?? backups.versions[0]?.key;
  return (
    // The marks are buttons; what is done with them is heard here once for all.
    <section
      ref={book}
      className={css.logbook}
      aria-label="Logbook"
      onKeyDown={move}
      onMouseOver={point}
      onFocus={point}
      onClick={(e) => {
        const version = versionAt(e);
        if (version) choose(version, e.shiftKey || e.ctrlKey || e.metaKey);
      }}
    >
      <div className={css.logbookHead}>
        <Pointed id={id} versions={backups.versions} version={pointed} />
        <Legend second={second} lines={lines} />
      </div>
      <div className={css.hours} aria-hidden="true">
        {Array.from({ length: parts + 1 }, (_, n) => span.from + n * span.step).map((h) => (
          <span key={h} style={{ left: `${((h - span.from) / (span.to - span.from)) * 100}%` }}>
            {h}:00
          </span>
        ))}
      </div>
      <ol>
        {days.slice(0, most).map((day) => (
          <li key={day.date}>
            <h2>{dayName.format(new Date(`${day.date}T12:00:00`))}</h2>
            <div className={css.lanes} style={{ backgroundSize: `${100 / parts}% 100%` }}>
              <div className={css.lane}>
                {day.versions.map((version) => (
                  <Mark
                    key={version.key}
                    version={version}
                    isChosen={chosen.includes(version.key)}
                    isReached={version.key === reached}
                    share={shareOfSpan(version, span)}
                  />
                ))}
              </div>
              {second && (
                <div className={css.furtherLane} aria-hidden="true">
                  {day.versions
                    .filter((v) => v.kind === "Document")
                    .map((v) => (
                      <i key={v.key} className={v.isInSecond ? css.held : css.gap} style={place(v)} />
                    ))}
                </div>
              )}
              {lines.map((vault) => (
                <div key={vault} className={css.furtherLane} title={vault} aria-hidden="true">
                  {day.versions
                    .filter((v) => v.vault === vault)
                    .map((v) => (
                      <i key={v.key} className={css.held} style={place(v)} />
                    ))}
                </div>
              ))}
            </div>
          </li>
        ))}
      </ol>
      {days.length > most && (
        <Button onClick={() => setMost(most * 4)}>Show {count(days.length - most, "earlier day")}</Button>
      )}
    </section>
  );
}

/** So long a mark is pointed at before it is asked what it changed, in milliseconds. */
const restMs = 150;

function Legend({ second, lines }: { second: string | null; lines: readonly string[] }) {
  return (
    <p className={`${css.legend} quiet`}>
      <span>
        <i className={css.small} /> kept save
      </span>
      <span>
        <i className={css.tall} /> full backup
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

/** What the mark at hand changed, against the version before it of the same document. */
function Pointed({ id, versions, version }: { id: string; versions: readonly Version[]; version: Version | null }) {
  const before = version
    ? versions.slice(versions.indexOf(version) + 1).find((v) => v.document === version.document)
    : undefined;
  const comparison = useComparedFor(id, before?.key, version?.key);
  return (
    <p className={css.pointed} aria-live="polite">
      {version ? (
        <>
          <strong>{versionLabel(version)}</strong>{" "}
          {before ? (comparison.data ?? comparison.error?.message ?? "") : "The first that is kept."}
        </>
      ) : (
        <span className="quiet">Point at a mark to see what it changed against the one before.</span>
      )}
    </p>
  );
}

interface MarkProps {
  version: Version;
  isChosen: boolean;
  isReached: boolean;
  /** Where in the hours that are shown, from 0 to 1. */
  share: number;
}

const Mark = memo(function Mark({ version, isChosen, isReached, share }: MarkProps) {
  const kind = version.kind === "Full" ? css.tall : css.small;
  return (
    <button
      type="button"
      data-version={version.key}
      className={`${css.mark} ${kind} ${isChosen ? css.isChosen : ""} ${version.isAway ? css.isAway : ""} ${version.note ? css.hasNote : ""}`}
      style={{ left: `${share * 100}%` }}
      aria-pressed={isChosen}
      aria-label={versionLabel(version)}
      title={versionLabel(version)}
      tabIndex={isReached ? 0 : -1}
    />
  );
});
