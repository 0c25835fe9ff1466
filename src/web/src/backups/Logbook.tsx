import { Button } from "antd";
import { type KeyboardEvent, type MouseEvent, useState } from "react";
import type { Backups, Version } from "../api/types";
import { count } from "../words";
import css from "./backups.module.css";
import { byDay, shareOfDay } from "./days";
import { useComparison } from "./queries";
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
const hours = [0, 6, 12, 18, 24];

/** Days downwards, the hours of a day across: a small mark for each kept save, a tall one for a full backup, further places below. */
export function Logbook({ id, backups, chosen, onChoose }: Props) {
  const [pointed, setPointed] = useState<Version | null>(null);
  const [most, setMost] = useState(daysAtFirst);
  const days = byDay(backups.versions);
  const order = backups.versions.map((v) => v.key);
  const { second } = backups.status;
  // One vault is told by its marks alone; of several each has a line.
  const vaults = [...new Set(backups.versions.flatMap((v) => (v.vault === null ? [] : [v.vault])))].toSorted();
  const lines = vaults.length > 1 ? vaults : [];
  const choose = (version: Version, both: boolean) => {
    const [first] = chosen;
    if (both && first && first !== version.key) onChoose([first, version.key]);
    else onChoose(chosen.length === 1 && first === version.key ? [] : [version.key]);
  };
  const move = (e: KeyboardEvent) => {
    const step = { ArrowRight: -1, ArrowDown: -1, ArrowLeft: 1, ArrowUp: 1 }[e.key];
    const key = document.activeElement?.getAttribute("data-version");
    if (!step || !key) return;
    e.preventDefault();
    const next = order[order.indexOf(key) + step];
    const button = [...document.querySelectorAll<HTMLElement>("[data-version]")].find(
      (b) => b.dataset.version === next,
    );
    button?.focus();
  };
  // One mark of all is reached by the tab key; from there the arrows go on.
  const reached = chosen[0] ?? order[0];
  return (
    <section className={css.logbook} aria-label="Logbook" onKeyDown={move}>
      <div className={css.hours} aria-hidden="true">
        {hours.map((h) => (
          <span key={h} style={{ left: `${(h / 24) * 100}%` }}>
            {h}:00
          </span>
        ))}
      </div>
      <ol>
        {days.slice(0, most).map((day) => (
          <li key={day.date}>
            <h3>{dayName.format(new Date(`${day.date}T12:00:00`))}</h3>
            <div className={css.lanes}>
              <div className={css.lane}>
                {day.versions.map((version) => (
                  <Mark
                    key={version.key}
                    version={version}
                    isChosen={chosen.includes(version.key)}
                    isReached={version.key === reached}
                    onPoint={() => setPointed(version)}
                    onChoose={(e) => choose(version, e.shiftKey || e.ctrlKey || e.metaKey)}
                  />
                ))}
              </div>
              {second && (
                <div className={css.furtherLane} aria-hidden="true">
                  {day.versions
                    .filter((v) => v.kind === "Document")
                    .map((v) => (
                      <i
                        key={v.key}
                        className={v.isInSecond ? css.held : css.gap}
                        style={{ left: `${shareOfDay(v) * 100}%` }}
                      />
                    ))}
                </div>
              )}
              {lines.map((vault) => (
                <div key={vault} className={css.furtherLane} title={vault} aria-hidden="true">
                  {day.versions
                    .filter((v) => v.vault === vault)
                    .map((v) => (
                      <i key={v.key} className={css.held} style={{ left: `${shareOfDay(v) * 100}%` }} />
                    ))}
                </div>
              ))}
            </div>
          </li>
        ))}
      </ol>
      <Pointed id={id} versions={backups.versions} version={pointed} />
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
      {days.length > most && (
        <Button onClick={() => setMost(most * 4)}>Show {count(days.length - most, "earlier day")}</Button>
      )}
    </section>
  );
}

/** What the mark at hand changed, against the version before it of the same document. */
function Pointed({ id, versions, version }: { id: string; versions: readonly Version[]; version: Version | null }) {
  const before = version
    ? versions.slice(versions.indexOf(version) + 1).find((v) => v.document === version.document)
    : undefined;
  const comparison = useComparison(id, version && before ? before.key : undefined, version?.key, null);
  return (
    <p className={css.pointed} aria-live="polite">
      {version ? (
        <>
          <strong>{versionLabel(version)}</strong>{" "}
          {before ? (comparison.data?.sentence ?? comparison.error?.message ?? "") : "The first that is kept."}
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
  onPoint: () => void;
  onChoose: (e: MouseEvent) => void;
}

function Mark({ version, isChosen, isReached, onPoint, onChoose }: MarkProps) {
  const kind = version.kind === "Full" ? css.tall : css.small;
  return (
    <button
      type="button"
      data-version={version.key}
      className={`${css.mark} ${kind} ${isChosen ? css.isChosen : ""} ${version.isAway ? css.isAway : ""} ${version.note ? css.hasNote : ""}`}
      style={{ left: `${shareOfDay(version) * 100}%` }}
      aria-pressed={isChosen}
      aria-label={versionLabel(version)}
      title={versionLabel(version)}
      tabIndex={isReached ? 0 : -1}
      onMouseEnter={onPoint}
      onFocus={onPoint}
      onClick={onChoose}
    />
  );
}
