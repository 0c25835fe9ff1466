import { Alert, Button } from "antd";
import { Suspense, useEffect } from "react";
import { Link, Navigate, useNavigate, useParams } from "react-router";
import { useSession } from "../api/queries";
import { DropAnywhere } from "../copy-in/DropAnywhere";
import { ErrorBoundary } from "../frame/ErrorBoundary";
import { isChord, isTyping, useKeys } from "../frame/keys";
import { markAgain, takeBackMark } from "../frame/markHistory";
import { useNumberKeys } from "../frame/NumberKeys";
import { Page } from "../frame/Page";
import { SessionProvider } from "../frame/sessionContext";
import { useTell } from "../frame/Tell";
import { PageTitle } from "../jobs/PageTitle";
import { moveOn, usePlanRun } from "../plans/usePlanRun";
import { dayOf } from "../words";
import { RouteCard } from "./RouteCard";
import css from "./session.module.css";
import { opensAt } from "./stationFor";
import { type StationKey, stationKeys, stations } from "./stations";

export function SessionPage() {
  const { id = "", station } = useParams();
  const session = useSession(id);
  const run = usePlanRun(id);
  const navigate = useNavigate();
  const tell = useTell();
  const [isNumbered] = useNumberKeys();
  useKeys((e) => {
    if (isTyping(e) || e.altKey) return;
    const target =
      isChord(e) || !isNumbered ? undefined : stationKeys.find((k) => String(stations[k].number) === e.key);
    if (target) navigate(`/sessions/${id}/${target}`);
    if (e.key.toLowerCase() === "z" && isChord(e) && !run.busy) {
      e.preventDefault();
      // The last tick is nearer to whoever presses this than the last plan.
      if (e.shiftKey ? markAgain(id) : takeBackMark(id)) {
        run.moveOn();
        tell.info(e.shiftKey ? "Marked again." : "The last mark is taken back. Ctrl + Shift + Z marks it again.", 2);
      } else if (e.shiftKey) run.planRedo();
      else run.planUndo();
    }
  });

  // What is done or failed is put away on leaving, so that whoever comes back sees what is to do next.
  useEffect(() => (station ? () => moveOn(id) : undefined), [id, station]);

  if (session.error && !session.data) {
    return (
      <Page>
        <Alert
          type="error"
          title={session.error.message}
          description="The session is only looked at; nothing in its folder was changed."
          action={
            <>
              <Button onClick={() => session.refetch()}>Try again</Button>
              <Link to="/">To the loading bay</Link>
            </>
          }
        />
      </Page>
    );
  }
  if (!session.data) return <Page about="Looking at the session." />;
  if (!station) return <Navigate replace to={`/sessions/${id}/${opensAt(session.data.session.attention)}`} />;
  if (!(station in stations)) return <Navigate replace to={`/sessions/${id}/set-up`} />;
  const { page: Station, title } = stations[station as StationKey];
  return (
    <SessionProvider value={id}>
      <div className={css.session}>
        <RouteCard inventory={session.data} current={station as StationKey} />
        <DropAnywhere
          sessionId={id}
          session={dayOf(session.data.session.name)?.rest ?? session.data.session.name}
          onDrop={run.moveOn}
        />
        <PageTitle>{`${title}, ${dayOf(session.data.session.name)?.rest ?? session.data.session.name}`}</PageTitle>
        <ErrorBoundary place={station}>
          <Suspense fallback={<Page />}>
            <Station key={station} inventory={session.data} run={run} />
          </Suspense>
        </ErrorBoundary>
      </div>
    </SessionProvider>
  );
}
