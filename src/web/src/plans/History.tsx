import { Button } from "antd";
import { Link } from "react-router";
import { useHistory } from "../api/queries";
import { when } from "../words";
import css from "./plans.module.css";
import type { PlanRun } from "./usePlanRun";

const ended: Record<string, string> = {
  Applied: "done",
  Cancelled: "cancelled, undone",
  Failed: "failed, undone",
  TakenBack: "cut off, undone",
};

/** Work that is reported on, file by file. */
const reported: ReadonlySet<string> = new Set(["SetAside", "PutBack", "EmptyHeld", "Trim"]);

/** What was done in this session, the newest first. */
export function History({ sessionId, run }: { sessionId: string; run: PlanRun }) {
  const history = useHistory(sessionId);
  return (
    <section aria-label="History">
      <h2>History</h2>
      {history.error && <p className="trouble">{history.error.message}</p>}
      {history.data?.length === 0 && <p className="quiet">Nothing was changed here by Neat Crate yet.</p>}
      <ol className={css.history}>
        {history.data?.map((entry) => (
          <li key={entry.planId}>
            <time className="mono quiet">{when(entry.ended)}</time>
            <span>
              {entry.sentence}
              {entry.note && <small>{entry.note}</small>}
            </span>
            <span className="quiet">
              {entry.kind && reported.has(entry.kind) && entry.state === "Applied" && (
                <>
                  <Link to={`/sessions/${sessionId}/report/${entry.planId}`}>report</Link>{" "}
                </>
              )}
              {entry.undone ? (entry.kind === "Undo" ? "redone" : "undone") : (ended[entry.state] ?? entry.state)}
            </span>
            {entry.canUndo ? (
              <Button size="small" onClick={() => run.planUndo(entry.planId)} disabled={run.busy}>
                Undo
              </Button>
            ) : entry.canRedo ? (
              <Button size="small" onClick={run.planRedo} disabled={run.busy}>
                Redo
              </Button>
            ) : (
              <span />
            )}
          </li>
        ))}
      </ol>
    </section>
  );
}
