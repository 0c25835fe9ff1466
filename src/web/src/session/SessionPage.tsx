import { Alert, Button } from "antd";
import { lazy, Suspense, useEffect, useEffectEvent } from "react";
import { Navigate, useNavigate, useParams } from "react-router";
import { useForgetSession, useSession } from "../api/queries";
import type { Inventory } from "../api/types";
import { isTyping } from "../frame/TopStrip";
import { usePlayer } from "../listening/player";
import { type PlanRun, usePlanRun } from "../plans/usePlanRun";
import { RouteCard } from "./RouteCard";
import { SessionProvider } from "./sessionContext";
import { type StationKey, stationKeys, stations } from "./stations";
import "./session.css";

export interface StationProps {
  inventory: Inventory;
  run: PlanRun;
}

const pages = {
  "set-up": lazy(() => import("../set-up/SetUpStation").then((m) => ({ default: m.SetUpStation }))),
  record: lazy(() => import("../record/RecordStation").then((m) => ({ default: m.RecordStation }))),
  "copy-in": lazy(() => import("../copy-in/CopyInStation").then((m) => ({ default: m.CopyInStation }))),
  bundle: lazy(() => import("../bundles/BundleStation").then((m) => ({ default: m.BundleStation }))),
};

export function SessionPage() {
  const { id = "", station } = useParams();
  const session = useSession(id);
  const forget = useForgetSession();
  const run = usePlanRun(id);
  const navigate = useNavigate();
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (isTyping(e)) return;
      const index = Number(e.key) - 1;
      const target = stationKeys[index];
      if (target && !e.ctrlKey && !e.altKey && !e.metaKey) navigate(`/sessions/${id}/${target}`);
      if (e.key === "z" && (e.ctrlKey || e.metaKey) && !run.busy) {
        e.preventDefault();
        run.planUndo();
      }
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [id, navigate, run]);

  // Nobody listens to a session that is no longer in sight.
  const hush = usePlayer((p) => p.stop);
  useEffect(() => hush, [hush]);

  const arrive = useEffectEvent((_station: string | undefined) => run.moveOn());
  useEffect(() => arrive(station), [station]);

  if (session.error && !session.data) {
    return (
      <main className="page">
        <Alert
          type="error"
          title={session.error.message}
          description="The session is only looked at; nothing in its folder was changed."
          action={
            <>
              <Button onClick={() => session.refetch()}>Try again</Button>
              <Button onClick={() => forget.mutate(id, { onSuccess: () => navigate("/") })}>
                Take it off the list
              </Button>
            </>
          }
        />
      </main>
    );
  }
  if (!session.data) return <main className="page quiet">Looking at the session.</main>;
  if (!station)
    return (
      <Navigate replace to={`/sessions/${id}/${session.data.session.attention === "AtRisk" ? "copy-in" : "set-up"}`} />
    );
  if (!(station in stations)) return <Navigate replace to={`/sessions/${id}/set-up`} />;
  const Station = pages[station as StationKey];
  return (
    <SessionProvider value={id}>
      <div className="session">
        <RouteCard inventory={session.data} current={station as StationKey} />
        <Suspense fallback={<main className="station" />}>
          {/* A station starts afresh for each session, so that no choice is carried over to another one. */}
          <Station key={`${id} ${station}`} inventory={session.data} run={run} />
        </Suspense>
      </div>
    </SessionProvider>
  );
}
