import { useVirtualizer } from "@tanstack/react-virtual";
import { Alert, Button, Input } from "antd";
import { useEffect, useEffectEvent, useRef, useState } from "react";
import { Link, useParams } from "react-router";
import { useOfJobs } from "../api/queries";
import type { FoundSession } from "../api/types";
import { Act } from "../frame/Act";
import { Choices } from "../frame/Choices";
import { Page } from "../frame/Page";
import { PageTitle } from "../jobs/PageTitle";
import { jobsInSight } from "../jobs/progress";
import { useWork } from "../jobs/useWork";
import { WorkGoes } from "../jobs/WorkGoes";
import { count, number, size, when } from "../words";
import css from "./found-sessions.module.css";
import { useAdoptMany, useFindSessions, useFoundSessions } from "./foundQueries";
import {
  foundWords,
  isAdoptable,
  isTicked,
  narrowed,
  noTicks,
  ticked,
  type Which,
  whatItIs,
  whichOf,
  whichWord,
} from "./foundSessions";

const rowHeight = 58;

/** The sessions on a shelf, of whatever program: found, seen before anything is done, and adopted together. */
export function FoundSessionsPage() {
  const { id = "" } = useParams();
  const search = useWork((j) => j.work === "Search" && j.shelfId === id);
  const adopting = useWork((j) => j.work === "Adopt" && j.shelfId === id);
  const list = useFoundSessions(id, search.running !== null);
  const find = useFindSessions(id);
  const adopt = useAdoptMany(id);
  const [ticks, setTicks] = useState(noTicks);
  const [which, setWhich] = useState<Which>("all");
  const [text, setText] = useState("");
  const begin = useEffectEvent(() => find.mutate());
  // Never looked for, or a scan has found other files since: what the list said may be true no longer.
  const isDue = list.data?.connected === true && (list.data.began === null || list.data.isOutdated);
  useEffect(() => {
    if (isDue) begin();
  }, [isDue]);
  const found = list.data?.found ?? [];
  const began = list.data?.began;
  const groups = whichOf(found);
  const asked = groups.some((g) => g.which === which) ? which : "all";
  const shown = narrowed(found, asked, text);
  // Also what the filter hides: it was ticked, and the number beside says so.
  const chosen = found.filter((f) => isTicked(f, ticks));
  const ended = useOfJobs((jobs) => jobs.find((j) => j.id === adopt.data?.id && j.ended !== null) ?? null);
  const begun = adopt.data?.id;
  useEffect(() => {
    if (!begun) return;
    // Told here, and nowhere else besides.
    jobsInSight.add(begun);
    return () => void jobsInSight.delete(begun);
  }, [begun]);
  const trouble = list.error ?? find.error ?? adopt.error;
  const isLooking = search.running !== null || find.isPending;
  return (
    <Page
      title={list.data ? `Sessions on ${list.data.name}` : "Sessions on a shelf"}
      about={
        <p className="quiet">
          {isLooking && found.length === 0
            ? "Looking for folders with a document, of any program, and media that it uses."
            : found.length > 0
              ? `${foundWords(found)}${began && !isLooking ? ` Looked for ${when(began)}.` : ""}`
              : "Folders with a document, of any program, and media that it uses. Looking changes nothing."}
        </p>
      }
      actions={
        <>
          <Act
            disabled={isLooking || adopting.running !== null || list.data?.connected === false}
            onClick={() => find.mutate()}
          >
            Look again
          </Act>
          <Act
            type="primary"
            disabled={chosen.length === 0 || adopting.running !== null || list.data?.connected === false}
            loading={adopt.isPending}
            onClick={() => adopt.mutate(chosen.map((f) => f.path))}
          >
            {chosen.length === 0 ? "Adopt" : `Adopt ${count(chosen.length, "session")}`}
          </Act>
        </>
      }
    >
      <PageTitle>{list.data ? `Sessions on ${list.data.name}` : "Sessions on a shelf"}</PageTitle>
      {trouble && <Alert type="error" title={trouble.message} />}
      {list.data?.connected === false && (
        <Alert type="info" title={`${list.data.name} is away. Connect it to look at it, or to adopt what is on it.`} />
      )}
      <WorkGoes work={search} of="folder" word="Stop" />
      <WorkGoes work={adopting} of="session" word="Stop" />
      {ended && (
        <Alert
          type={ended.state === "Done" ? "success" : "warning"}
          role="status"
          title={ended.message}
          action={<Link to="/">To the loading bay</Link>}
        />
      )}
      {list.data && list.data.began !== null && !list.data.isWhole && !isLooking && (
        <p className="quiet">It was not looked through to the end: there may be more.</p>
      )}
      {found.length > 0 && (
        <div className={css.arrange}>
          <Input
            allowClear
            placeholder="Filter by folder or document"
            aria-label="Filter by folder or document"
            value={text}
            onChange={(e) => setText(e.target.value)}
          />
          <Choices<Which>
            label="Which folders"
            value={asked}
            options={groups.map((g) => ({ value: g.which, label: `${whichWord[g.which]} ${number(g.folders)}` }))}
            onChange={setWhich}
          />
          {shown.some(isAdoptable) && (
            <>
              <Button size="small" onClick={() => setTicks(ticked(ticks, shown, true))}>
                Tick all
              </Button>
              <Button size="small" onClick={() => setTicks(ticked(ticks, shown, false))}>
                Tick none
              </Button>
            </>
          )}
        </div>
      )}
      {shown.length > 0 ? (
        <Rows
          found={shown}
          isTicked={(f) => isTicked(f, ticks)}
          tick={(folders, on) => setTicks(ticked(ticks, folders, on))}
        />
      ) : found.length > 0 ? (
        <p className="quiet">No folder that was found is like that.</p>
      ) : (
        list.data?.began != null &&
        !isLooking && (
          <p className="empty">
            No session was found. A session is a folder with a document and media that the document uses; one that has
            none can be adopted by itself, <Link to="/adopt">as a folder</Link>.
          </p>
        )
      )}
    </Page>
  );
}

interface RowsProps {
  found: readonly FoundSession[];
  isTicked: (f: FoundSession) => boolean;
  tick: (folders: readonly FoundSession[], on: boolean) => void;
}

/** The found folders, of which only those in sight are drawn. */
function Rows({ found, isTicked, tick }: RowsProps) {
  const scroller = useRef<HTMLDivElement>(null);
  const last = useRef<string | null>(null);
  const virtual = useVirtualizer({
    count: found.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => rowHeight,
    overscan: 8,
    getItemKey: (n) => found[n]?.path ?? n,
  });
  /** With Shift, all from the one before on. */
  const press = (at: number, on: boolean, isRange: boolean) => {
    const from = found.findIndex((f) => f.path === last.current);
    const [low, high] = isRange && from >= 0 ? [Math.min(from, at), Math.max(from, at)] : [at, at];
    last.current = found[at]?.path ?? null;
    tick(found.slice(low, high + 1), on);
  };
  return (
    <div className={css.scroller} ref={scroller}>
      <table className={css.found} aria-label="Folders that look like sessions" aria-rowcount={found.length + 1}>
        <thead>
          <tr>
            <th scope="col">
              <span className="unseen">Adopt</span>
            </th>
            <th scope="col">Folder</th>
            <th scope="col">State</th>
            <th scope="col">Document</th>
            <th scope="col" className={css.figure}>
              Media
            </th>
            <th scope="col">Saved</th>
          </tr>
        </thead>
        <tbody style={{ height: virtual.getTotalSize() }}>
          {virtual.getVirtualItems().map((item) => {
            const f = found[item.index];
            return (
              f && (
                <Row
                  key={item.key}
                  found={f}
                  at={item.index}
                  top={item.start}
                  isTicked={isTicked(f)}
                  press={(on, isRange) => press(item.index, on, isRange)}
                />
              )
            );
          })}
        </tbody>
      </table>
    </div>
  );
}

interface RowProps {
  found: FoundSession;
  at: number;
  top: number;
  isTicked: boolean;
  press: (on: boolean, isRange: boolean) => void;
}

function Row({ found: f, at, top, isTicked, press }: RowProps) {
  const cut = f.path.lastIndexOf("/");
  const [above, name] = [f.path.slice(0, Math.max(0, cut)), f.path.slice(cut + 1)];
  const isWhat = whatItIs(f);
  return (
    <tr
      className={css.row}
      aria-rowindex={at + 2}
      data-as={f.as}
      style={{ height: rowHeight, transform: `translateY(${top}px)` }}
    >
      <td>
        {isAdoptable(f) && (
          <input
            type="checkbox"
            aria-label={`Adopt ${f.path}`}
            checked={isTicked}
            onChange={(e) => press(e.target.checked, (e.nativeEvent as MouseEvent).shiftKey)}
          />
        )}
      </td>
      <td className={css.two}>
        {f.knownAs ? <Link to={`/sessions/${f.knownAs}`}>{name}</Link> : <strong title={f.path}>{name}</strong>}
        <span className="path quiet" title={f.path}>
          {above || "at the top of the shelf"}
        </span>
      </td>
      <td className={css.says}>
        {isWhat && <span title={isWhat}>{isWhat}</span>}
        {f.as !== "Known" && (
          <span
            className={isWhat ? "quiet" : f.attention === "Silent" || f.attention === "Unreadable" ? css.lacking : ""}
            title={f.says}
          >
            {f.says}
          </span>
        )}
      </td>
      <td className={css.two}>
        <span className="path" title={f.documents.join(", ")}>
          {f.documents[0]}
        </span>
        <span className="quiet">
          {[f.isByNames && "of another program", f.documents.length > 1 && `${number(f.documents.length - 1)} more`]
            .filter(Boolean)
            .join("; ")}
        </span>
      </td>
      <td className={`${css.two} ${css.figure} mono`}>
        <span>{count(f.media, "file")}</span>
        <span className="quiet">{size(f.bytes)}</span>
      </td>
      <td className="mono quiet">{f.saved ? when(f.saved) : ""}</td>
    </tr>
  );
}
