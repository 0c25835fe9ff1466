import { Link } from "react-router";
import type { Inventory } from "../api/types";
import css from "./session.module.css";
import { type StationKey, stationKeys, stations } from "./stations";

/** The stations of the work joined by a line, as on a freight label: the way about, and the state at a glance. */
export function RouteCard({ inventory, current }: { inventory: Inventory; current: StationKey }) {
  return (
    <nav className={css.route} aria-label="Stations">
      <ol>
        {stationKeys.map((key) => (
          <li key={key} className={stations[key].isWaiting(inventory) ? css.waiting : ""}>
            <Link to={`/sessions/${inventory.session.id}/${key}`} aria-current={key === current ? "page" : undefined}>
              <span className={css.stop} aria-hidden="true">
                {stations[key].number}
              </span>
              <span className={css.stationName}>{stations[key].title}</span>
              <span className={css.waits}>{stations[key].waits(inventory)}</span>
            </Link>
          </li>
        ))}
      </ol>
    </nav>
  );
}
