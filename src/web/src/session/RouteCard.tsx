import { Link } from "react-router";
import type { Inventory } from "../api/types";
import { type StationKey, stationKeys, stations } from "./stations";

/** The stations of the work joined by a line, as on a freight label: the way about, and the state at a glance. */
export function RouteCard({ inventory, current }: { inventory: Inventory; current: StationKey }) {
  return (
    <nav className="route" aria-label="Stations">
      <ol>
        {stationKeys.map((key) => (
          <li key={key} className={stations[key].isWaiting(inventory) ? "waiting" : ""}>
            <Link to={`/sessions/${inventory.session.id}/${key}`} aria-current={key === current ? "page" : undefined}>
              <span className="stop" aria-hidden="true">
                {stations[key].number}
              </span>
              <span className="station-name">{stations[key].title}</span>
              <span className="waits">{stations[key].waits(inventory)}</span>
            </Link>
          </li>
        ))}
      </ol>
    </nav>
  );
}
