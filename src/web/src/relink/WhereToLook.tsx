import { Button } from "antd";
import { useState } from "react";
import type { RelinkInfo, SearchedPlace } from "../api/types";
import { useDraft } from "../frame/kept";
import { useSessionId } from "../frame/sessionContext";
import { useWork } from "../jobs/useWork";
import { WorkGoes } from "../jobs/WorkGoes";
import { MachineFolder } from "../shelves/MachineFolder";
import { count, placeText, when } from "../words";
import { useRelinkWork } from "./queries";
import css from "./relink.module.css";

/** Searches folders that need not be on a shelf, and tells which were searched already. */
export function WhereToLook({ info }: { info: RelinkInfo }) {
  const id = useSessionId();
  const [places, setPlaces] = useDraft<string[]>("places to search", []);
  const [typed, setTyped] = useState("");
  const { search } = useRelinkWork(id);
  const work = useWork((j) => j.work === "Search" && j.sessionId === id);
  const { running, last } = work;
  const add = () => {
    if (typed.trim() !== "" && !places.includes(typed.trim())) setPlaces([...places, typed.trim()]);
    setTyped("");
  };
  const all = typed.trim() === "" ? places : [...places, typed.trim()];
  const before = all.map((p) => info.searched.find((s) => s.path === p)).find((s) => s !== undefined);
  return (
    <section className={css.look} aria-label="Where to look">
      <div className={css.lookForm}>
        <div className={css.lookPlace}>
          <label htmlFor="place-to-search" className="quiet">
            A folder to search, on a shelf or not
          </label>
          <MachineFolder id="place-to-search" value={typed} onChange={setTyped} />
        </div>
        <Button onClick={add} disabled={typed.trim() === ""}>
          One more place
        </Button>
        {!running && (
          <Button
            type="primary"
            disabled={all.length === 0}
            loading={search.isPending}
            onClick={() => {
              setPlaces([]);
              setTyped("");
              search.mutate(all);
            }}
          >
            {all.length > 1 ? `Search ${all.length} places` : "Search"}
          </Button>
        )}
      </div>
      {places.length > 0 && (
        <ul className={css.places}>
          {places.map((place) => (
            <li key={place}>
              <span className="path">{place}</span>
              <Button size="small" type="text" onClick={() => setPlaces(places.filter((p) => p !== place))}>
                Leave out
              </Button>
            </li>
          ))}
        </ul>
      )}
      {before && (
        <p className="warning">{`${before.path} was searched ${when(before.ended)}${before.isWhole ? "" : ", and stopped"}: ${count(before.notFound.length, "file")} not found there.`}</p>
      )}
      {search.error && (
        <p className="trouble" role="alert">
          {search.error.message}
        </p>
      )}
      <WorkGoes work={work} of="file" word="Stop" />
      {!running && last && <p className="quiet">{last.message}</p>}
      {info.searched.length === 0 && !running && (
        <p className="quiet">
          Every shelf is known without searching, also those that are away. Search a folder that is on none: another
          drive, a download folder, somebody else's disk. What is found turns up in the list while the search runs.
        </p>
      )}
      {info.searched.length > 0 && (
        <>
          <h2>Places searched</h2>
          <ul className={css.searched} aria-label="Places searched">
            {info.searched.map((s) => (
              <Searched key={s.path} place={s} />
            ))}
          </ul>
        </>
      )}
    </section>
  );
}

function Searched({ place: s }: { place: SearchedPlace }) {
  return (
    <li>
      <span className="path" title={s.path}>
        {placeText(s.place)}
      </span>
      <span className="mono quiet">{`${when(s.ended)} · ${count(s.files, "file")} in ${count(s.folders, "folder")}`}</span>
      <span>
        {[
          !s.isWhole && "stopped before its end",
          s.unreadable > 0 && `${count(s.unreadable, "folder")} could not be opened`,
          s.found > 0 && `something for ${count(s.found, "file")}`,
          s.notFound.length > 0 &&
            `not there: ${s.notFound.slice(0, 3).join(", ")}${s.notFound.length > 3 ? ` and ${s.notFound.length - 3} more` : ""}`,
        ]
          .filter(Boolean)
          .join("; ")}
      </span>
    </li>
  );
}
