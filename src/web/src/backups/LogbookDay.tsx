import { Button } from "antd";
import { useMemo } from "react";
import type { SaveChange, Version } from "../api/types";
import { count } from "../words";
import css from "./backups.module.css";
import { type HourSpan, type LogDay, shareOfSpan } from "./days";
import { fan } from "./fanned";
import { LogbookMark } from "./LogbookMark";

/** With more rows of marks than this a day is a band, which opens. */
const mostRows = 2;

const dayName = new Intl.DateTimeFormat("en-GB", { weekday: "short", day: "numeric", month: "short" });
const dayAndYear = new Intl.DateTimeFormat("en-GB", {
  weekday: "short",
  day: "numeric",
  month: "short",
  year: "numeric",
});

interface Props {
  day: LogDay;
  span: HourSpan;
  /** Of all hours, in pixels. */
  width: number;
  changes: ReadonlyMap<string, SaveChange>;
  chosen: readonly string[];
  /** The mark that the tab key reaches. */
  reached: string | undefined;
  /** Whether it is looked at by itself. */
  isOpen: boolean;
  onOpen: () => void;
  /** Name of the second place; null where there is none. */
  second: string | null;
  /** Vaults that have a line each. */
  vaults: readonly string[];
}

/** A day's work: its saves and backups at their hours, with what each changed, and below them which further places hold them. */
export function LogbookDay({ day, span, width, changes, chosen, reached, isOpen, onOpen, second, vaults }: Props) {
  const { versions } = day;
  const fanned = useMemo(() => fan(versions, span, width), [versions, span, width]);
  const isBand = !isOpen && fanned.rows > mostRows;
  const rows = isBand ? 1 : fanned.rows;
  const roomOf = (version: Version, n: number) => {
    const row = fanned.rowOf.get(version.key);
    const next = versions.slice(n + 1).find((v) => fanned.rowOf.get(v.key) === row);
    return ((next ? shareOfSpan(next, span) : 1) - shareOfSpan(version, span)) * width;
  };
  const place = (v: Version) => ({ left: `${shareOfSpan(v, span) * 100}%` });
  const date = new Date(`${day.date}T12:00:00`);
  return (
    <li>
      <div>
        <h2>{(date.getFullYear() === new Date().getFullYear() ? dayName : dayAndYear).format(date)}</h2>
        {(isOpen || isBand) && (
          <Button size="small" type="text" className={`${css.openDay}`} onClick={onOpen}>
            {isOpen ? "All days" : count(versions.length, "mark")}
          </Button>
        )}
      </div>
      <div className={css.lanes} style={{ backgroundSize: `${(100 * span.step) / (span.to - span.from)}% 100%` }}>
        {/* A band opens wherever it is pressed; by keys its marks are reached one by one as everywhere. */}
        <div
          className={`${css.lane} ${isBand ? css.band : ""}`}
          data-opens={isBand ? day.date : undefined}
          style={{ height: `calc(${rows} * var(--log-row))` }}
        >
          {versions.map((version, n) => (
            <LogbookMark
              key={version.key}
              version={version}
              change={changes.get(version.key)}
              isChosen={chosen.includes(version.key)}
              isReached={version.key === reached}
              share={shareOfSpan(version, span)}
              row={isBand ? 0 : (fanned.rowOf.get(version.key) ?? 0)}
              room={isBand ? 0 : roomOf(version, n)}
              isThin={isBand && version.kind === "Document"}
            />
          ))}
        </div>
        {second && (
          <div className={css.furtherLane} aria-hidden="true">
            {versions
              .filter((v) => v.kind === "Document")
              .map((v) => (
                <i key={v.key} className={v.isInSecond ? css.held : css.gap} style={place(v)} />
              ))}
          </div>
        )}
        {vaults.map((vault) => (
          <div key={vault} className={css.furtherLane} title={vault} aria-hidden="true">
            {versions
              .filter((v) => v.vault === vault)
              .map((v) => (
                <i key={v.key} className={css.held} style={place(v)} />
              ))}
          </div>
        ))}
      </div>
    </li>
  );
}
