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
import { arranged, grouped, type Order, orderWord, type State, statesOf, stateWord } from "./arranged";
import { CrateLabel } from "./CrateLabel";
import css from "./loading-bay.module.css";

const FirstSteps = lazy(() => import("./FirstSteps").then((m) => ({ default: m.FirstSteps })));

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
  const all = sessions.data ?? [];
  const states = statesOf(all);
  // Where the last session of a state is mended, what is asked for is no longer there to be chosen.
  const narrowed = states.some((s) => s.state === state) ? state : null;
  const shown = arranged(all, filter, narrowed, order);
  const isBeginning = all.length < manySessions && !all.some((s) => s.backup?.lastFull);
  const needy = all.filter((s) => s.attention !== "InOrder" && s.attention !== "Heavy").length;
  return (
    <Page
      title="Loading bay"
      about={
        <p className="quiet">
          {sessions.isPending
            ? "Looking at every session."
            : all.length === 0
              ? "No session is known yet."
              : `${count(all.length, "session")}, ${needy === 0 ? "none needs you" : needy === 1 ? "1 needs you" : `${needy} need you`}.`}
        </p>
      }
      actions={
        <>
          <BackUpOnlyHere sessions={all} />
          {(shelves.data === undefined || shelves.data.length > 0) && (
            <>
              <Button onClick={() => navigate("/adopt")}>Adopt a folder</Button>
              <Button type={needy > 0 || isBeginning ? "default" : "primary"} onClick={() => navigate("/new")}>
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
            placeholder="Filter by name or folder"
            aria-label="Filter sessions by name or folder"
            value={filter}
            onChange={(e) => setFilter(e.target.value)}
          />
          <Choices<State | "all">
            label="Which sessions"
            value={narrowed ?? "all"}
            options={[
              { value: "all", label: `All ${number(all.length)}` },
              ...states.map((s) => ({ value: s.state, label: `${stateWord[s.state]} ${number(s.sessions)}` })),
            ]}
            onChange={(next) => setState(next === "all" ? null : next)}
          />
          <label className={css.order}>
            <span className="quiet">Order</span>
            <select value={order} onChange={(e) => setOrder(e.target.value as Order)}>
              {orders.map(([key, words]) => (
                <option key={key} value={key}>
                  {words}
                </option>
              ))}
            </select>
          </label>
        </div>
      )}
      {grouped(shown, order).map(({ path, sessions }) => (
        <Fragment key={path}>
          {path !== null && (
            <h2 className={css.folder} title={path}>
              {path.split("/").at(-1)} <small className="mono quiet">{count(sessions.length, "session")}</small>
            </h2>
          )}
          <ul className={css.crates} data-order={order}>
            {sessions.map((session) => (
              <CrateLabel key={session.id} session={session} />
            ))}
          </ul>
        </Fragment>
      ))}
      {all.length > 0 && shown.length === 0 && (
        <p className="quiet">
          {`No session${narrowed ? ` that is ${stateWord[narrowed]}` : ""} has “${filter.trim()}” in its name or folder. `}
          <Button
            size="small"
            onClick={() => {
              setFilter("");
              setState(null);
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
          onSuccess: ({ jobs, without }) => {
            if (jobs.length > 0)
              tell.success(`${count(jobs.length, "full backup")} begun. Jobs tell how far they are.`);
            if (without.length > 0)
              tell.warning(
                `No vault on another drive is there for ${without.join(", ")}. Plug one in, or add one at Shelves.`,
              );
          },
        })
      }
    >
      {running > 0 ? `${count(running, "backup")} under way` : `Back up what is only here (${number(worried.length)})`}
    </Act>
  );
}
