import { useMemo } from "react";
import { count } from "../words";
import css from "./backups.module.css";
import type { LogDay } from "./days";
import { monthsOf } from "./fanned";

const monthName = new Intl.DateTimeFormat("en-GB", { month: "long", year: "numeric" });
const monthShort = new Intl.DateTimeFormat("en-GB", { month: "short" });

const dayIn = (month: string) => new Date(`${month}-15T12:00:00`);

interface Props {
  days: readonly LogDay[];
  /** The month from which the days are shown; null for the newest. */
  until: string | null;
  onUntil: (month: string | null) => void;
}

/** All months by how much was saved in each, and the way to their days; nothing where there is one month only. */
export function LogbookMonths({ days, until, onUntil }: Props) {
  const months = useMemo(() => monthsOf(days.map((d) => ({ date: d.date, saves: d.versions.length }))), [days]);
  if (months.length < 2) return null;
  const most = months.reduce((a, m) => Math.max(a, m.saves), 1);
  const newest = months.at(-1)?.month;
  return (
    <fieldset className={css.months}>
      <legend className="unseen">Months</legend>
      {months.map(({ month, saves }) => (
        <button
          key={month}
          type="button"
          disabled={saves === 0}
          aria-pressed={month === (until ?? newest)}
          aria-label={`${monthName.format(dayIn(month))}, ${count(saves, "mark")}`}
          title={`${monthName.format(dayIn(month))}, ${count(saves, "mark")}`}
          onClick={() => onUntil(month === newest ? null : month)}
        >
          <i style={{ height: saves === 0 ? 1 : Math.max(3, Math.round((22 * saves) / most)) }} />
          <span>
            {month.endsWith("-01") || month === months[0]?.month
              ? month.slice(0, 4)
              : monthShort.format(dayIn(month)).slice(0, 1)}
          </span>
        </button>
      ))}
    </fieldset>
  );
}
