import { Alert, Button } from "antd";
// By itself: with it the first page would load all other kinds of inputs.
import Input from "antd/es/input/Input";
import { Fragment, lazy, Suspense, useState } from "react";
import { useNavigate } from "react-router";
import { isOver, useBackUpOnlyHere, useOfJobs, useSessions, useShelves } from "../api/queries";
import type { SessionLabel } from "../api/types";
import { Act } from "../frame/Act";
import { Choices } from "../frame/Choices";
import { useRemembered } from "../frame/kept";
import { Page } from "../frame/Page";
import { useTell } from "../frame/Tell";
import { PageTitle } from "../jobs/PageTitle";
import { count, number, onlyHere } from "../words";
import {
  anywhere,
  arranged,
  grouped,
  inBlocks,
  type Order,
  orderWord,
  type State,
  statesOf,
  stateWord,
  sumOf,
  type Within,
  withinOf,
} from "./arranged";
import { Block } from "./Block";
import { tellBegun } from "./backupsBegun";
import { Chosen } from "./Chosen";
import { CrateLabel } from "./CrateLabel";
import css from "./loading-bay.module.css";
import { Narrow } from "./Narrow";
import { SumLine } from "./SumLine";

const FirstSteps = lazy(() => import("./FirstSteps").then((m) => ({ default: m.FirstSteps })));

/** So many blocks are drawn before it is known what is in sight. */
const firstBlocks = 2;

const orders = Object.entries(orderWord) as [Order, string][];

/** Whoever has so many sessions knows the way. */
const manySessions = 3;

/** Home: all sessions, those that need somebody first. */
export function LoadingBay() {
  const sessions = useSessions();
  const shelves = useShelves();
  const navigate = useNavigate();
  const [filter, setFilter] = useState("");
  const [order, setOrder] = useRemembered<Order>("order of sessions", "needs");
  const [state, setState] = useState<State | null>(null);
  const [within, setWithin] = useState(anywhere);
  // Null while none are chosen, which is mostly.
  const [picked, setPicked] = useState<ReadonlySet<string> | null>(null);
  const all = sessions.data ?? [];
  const states = statesOf(all);
  // Where the last session of a state is mended, what is asked for is no longer there to be chosen.
  const narrowed = states.some((s) => s.state === state) ? state : null;
  const sum = sumOf(all);
  const among = withinOf(all);
  // What nothing stands in any more cannot be chosen, and narrows nothing.
  const inside: Within = {
    shelf: among.shelves.some((s) => s.value === within.shelf) ? within.shelf : null,
    folder: among.folders.some((f) => f.value === within.folder) ? within.folder : null,
    document: among.documents.some((d) => d.value === within.document) ? within.document : null,
  };
  const shown = arranged(all, filter, narrowed, order, inside);
  const isNarrowed = narrowed !== null || Object.values(inside).some((by) => by !== null);
  const chosen = picked && all.filter((s) => picked.has(s.id));
  const isBeginning = all.length < manySessions && !all.some((s) => s.backup?.lastFull);
  const isNeedy = states.some((s) => s.state === "needs");
  return (
    <Page
      title="Loading bay"
      about={
        sessions.isPending ? (
          <p className="quiet">Looking at every session.</p>
        ) : (
          <SumLine parts={sum} state={narrowed} onChange={setState} />
        )
      }
      actions={
        <>
          <BackUpOnlyHere sessions={all} />
          {(shelves.data === undefined || shelves.data.length > 0) && (
            <>
              <Button onClick={() => navigate("/adopt")}>Adopt a folder</Button>
              <Button type={isNeedy || isBeginning ? "default" : "primary"} onClick={() => navigate("/new")}>
                New session
              </Button>
            </>
          )}
        </>
      }
    >
      <PageTitle>Loading bay</PageTitle>
      {sessions.error && (
        <Alert
          type="error"
          title={sessions.error.message}
          action={<Button onClick={() => sessions.refetch()}>Try again</Button>}
        />
      )}
      {sessions.data && shelves.data && isBeginning && (
        <Suspense>
          <FirstSteps sessions={sessions.data} shelves={shelves.data} />
        </Suspense>
      )}
      {all.length > 1 && (
        <div className={css.arrange}>
          <Input
            allowClear
            placeholder="Name or folder"
            aria-label="Filter sessions by name or folder"
            value={filter}
            onChange={(e) => setFilter(e.target.value)}
          />
          <Choices<State | "all">
            label="Which sessions"
            value={narrowed ?? "all"}
            options={[
              { value: "all", label: `All ${number(all.length)}` },
              // What the line above tells of, it narrows to.
              ...states
                .filter((s) => s.state === narrowed || !sum.some((p) => p.of === s.state))
                .map((s) => ({ value: s.state, label: `${stateWord[s.state]} ${number(s.sessions)}` })),
            ]}
            onChange={(next) => setState(next === "all" ? null : next)}
          />
          <Narrow
            label="Shelf"
            any="any shelf"
            values={among.shelves}
            value={inside.shelf}
            onChange={(shelf) => setWithin({ ...inside, shelf })}
          />
          <Narrow
            label="Folder"
            any="any folder"
            values={among.folders}
            nameOf={(path) => path.split("/").at(-1) || path}
            value={inside.folder}
            onChange={(folder) => setWithin({ ...inside, folder })}
          />
          <Narrow
            label="Document"
            any="any kind"
            values={among.documents}
            value={inside.document}
            onChange={(document) => setWithin({ ...inside, document })}
          />
          <Button size="small" onClick={() => setPicked(picked ? null : new Set())}>
            {picked ? "Choose none" : "Choose several"}
          </Button>
          <select
            className={css.order}
            aria-label="Order"
            value={order}
            onChange={(e) => setOrder(e.target.value as Order)}
          >
            {orders.map(([key, words]) => (
              <option key={key} value={key}>
                {words}
              </option>
            ))}
          </select>
        </div>
      )}
      {chosen && (
        <Chosen chosen={chosen} shown={shown} pick={(ids) => setPicked(new Set(ids))} done={() => setPicked(null)} />
      )}
      {grouped(shown, order).map(({ path, sessions }, group) => (
        <Fragment key={path}>
          {path !== null && (
            <h2 className={css.folder} title={path}>
              {path.split("/").at(-1)} <small className="mono quiet">{count(sessions.length, "session")}</small>
            </h2>
          )}
          {inBlocks(sessions).map((block, n) => (
            <Block key={block[0]?.id} crates={block.length} isFirst={group < firstBlocks && n < firstBlocks}>
              {() => (
                <ul className={css.crates} data-order={picked ? "chosen" : n === 0 ? order : "more"}>
                  {block.map((session) => (
                    <CrateLabel
                      key={session.id}
                      session={session}
                      pick={
                        picked && {
                          isPicked: picked.has(session.id),
                          press: (on) => {
                            const next = new Set(picked);
                            if (on) next.add(session.id);
                            else next.delete(session.id);
                            setPicked(next);
                          },
                        }
                      }
                    />
                  ))}
                </ul>
              )}
            </Block>
          ))}
        </Fragment>
      ))}
      {all.length > 0 && shown.length === 0 && (
        <p className="quiet">
          {filter.trim() === ""
            ? "No session is like that. "
            : `No session${isNarrowed ? " like that" : ""} has “${filter.trim()}” in its name or folder. `}
          <Button
            size="small"
            onClick={() => {
              setFilter("");
              setState(null);
              setWithin(anywhere);
            }}
          >
            Show all
          </Button>
        </p>
      )}
    </Page>
  );
}

/** On one press, a backup of everything that would be lost with its drive. */
function BackUpOnlyHere({ sessions }: { sessions: readonly SessionLabel[] }) {
  const backUp = useBackUpOnlyHere();
  const tell = useTell();
  const running = useOfJobs((jobs) => jobs.filter((j) => j.work === "Backup" && !isOver(j)).length) ?? 0;
  const worried = sessions.filter(({ backup }) => backup && onlyHere(backup) !== null);
  if (worried.length === 0) return null;
  return (
    <Act
      disabled={running > 0}
      loading={backUp.isPending}
      title={worried.map((s) => s.name).join(", ")}
      onClick={() =>
        backUp.mutate(undefined, {
          onError: (e) => tell.error(e.message),
          onSuccess: (begun) => tellBegun(tell, begun),
        })
      }
    >
      {running > 0 ? `${count(running, "backup")} under way` : `Back up what is only here (${number(worried.length)})`}
    </Act>
  );
}
