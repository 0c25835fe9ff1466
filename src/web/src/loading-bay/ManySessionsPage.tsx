import { Alert, Button } from "antd";
import { useEffect, useEffectEvent, useState } from "react";
import { Link, useLocation } from "react-router";
import { useIsConnected } from "../api/connection";
import { isOver, useApplyMany, useOfJobs, usePlanMany, useSaveManyReport } from "../api/queries";
import type { ManyPlan, ManyWork, RelinkWay } from "../api/types";
import { Act } from "../frame/Act";
import { Choices } from "../frame/Choices";
import { useRemembered } from "../frame/kept";
import { Page } from "../frame/Page";
import { PageTitle } from "../jobs/PageTitle";
import { useWork } from "../jobs/useWork";
import { WorkGoes } from "../jobs/WorkGoes";
import { wayHint, wayWord } from "../relink/words";
import { count, size } from "../words";
import { doableOf, endOf, inOrder, manyWord, sumOfPlans } from "./many";
import css from "./many-sessions.module.css";

/** What the loading bay hands over: the sessions that were ticked. */
export interface ChosenState {
  ids: readonly string[];
  work: ManyWork;
}

const isChosen = (state: unknown): state is ChosenState =>
  typeof state === "object" && state !== null && Array.isArray((state as ChosenState).ids);

/** Many sessions at once: what would be done in each, done by one press, and what came of each. */
export function ManySessionsPage() {
  const { state } = useLocation();
  const chosen = isChosen(state) ? state : null;
  const work = chosen?.work ?? "CopyIn";
  const words = manyWord[work];
  const [way, setWay] = useRemembered<RelinkWay>("relink way", "CopyIn");
  const plan = usePlanMany();
  const apply = useApplyMany();
  const planning = useWork((j) => j.work === "Planning" && j.sessionId === null);
  const isConnected = useIsConnected();
  const [isAsked, setAsked] = useState(false);
  const ask = useEffectEvent(() => {
    if (!chosen) return;
    apply.reset();
    plan.mutate({ sessionIds: [...chosen.ids], work, way });
    setAsked(true);
  });
  useEffect(() => {
    if (isConnected && !isAsked) ask();
  }, [isConnected, isAsked]);
  const plans = inOrder(plan.data ?? []);
  const doable = doableOf(plans);
  const begun = new Map((apply.data ?? []).map((b) => [b.planId, b]));
  const ids = new Set((apply.data ?? []).map((b) => b.job?.id));
  const jobs = useOfJobs((all) => all.filter((j) => ids.has(j.id))) ?? [];
  const jobOf = (p: ManyPlan) => jobs.find((j) => j.id === begun.get(p.planId ?? "")?.job?.id) ?? null;
  const isDone = apply.data !== undefined && jobs.length > 0 && jobs.every(isOver);
  const save = useSaveManyReport();
  const done = jobs.flatMap((j) => (j.state === "Done" && j.planId ? [j.planId] : []));
  const trouble = plan.error ?? apply.error ?? save.error;
  if (!chosen)
    return (
      <Page title="Many sessions">
        <p>
          No session is chosen. <Link to="/">Choose them in the loading bay</Link>.
        </p>
      </Page>
    );
  return (
    <Page
      title={words.title}
      about={
        <p className="quiet" role="status">
          {plan.data ? sumOfPlans(work, plans) : `Planning what is done in ${count(chosen.ids.length, "session")}.`}
        </p>
      }
      actions={
        <>
          {isDone && (
            <>
              <Act disabled={done.length === 0} loading={save.isPending} onClick={() => save.mutate(done)}>
                Report as CSV
              </Act>
              <Button onClick={() => window.print()}>Print</Button>
            </>
          )}
          <Act disabled={plan.isPending || apply.isPending || (apply.data !== undefined && !isDone)} onClick={ask}>
            Plan again
          </Act>
          <Act
            type="primary"
            disabled={doable.length === 0 || plan.isPending || apply.data !== undefined}
            loading={apply.isPending}
            onClick={() => apply.mutate(doable.map((p) => p.planId ?? ""))}
          >
            {doable.length === 0 ? words.act : `${words.act}: ${count(doable.length, "session")}`}
          </Act>
        </>
      }
    >
      <PageTitle>{words.title}</PageTitle>
      {trouble && <Alert type="error" title={trouble.message} />}
      {work === "Relink" && apply.data === undefined && (
        <div className={css.ways}>
          <Choices<RelinkWay>
            label="How files come back"
            value={way}
            onChange={(w) => {
              setWay(w);
              setAsked(false);
            }}
            options={(["CopyIn", "Repoint", "PutBack"] as const).map((value) => ({ value, label: wayWord[value] }))}
          />
          <span className="quiet">{`${wayHint[way]} Where a document only names its files, each is put back.`}</span>
        </div>
      )}
      <WorkGoes work={planning} of="session" />
      {isDone && (
        <Alert
          type={jobs.every((j) => j.state === "Done") ? "success" : "warning"}
          role="status"
          title={endOf(jobs)}
          action={<Link to="/">To the loading bay</Link>}
        />
      )}
      {plans.length > 0 && (
        <table className={css.many} aria-label="Sessions">
          <thead>
            <tr>
              <th>Session</th>
              <th>{apply.data ? "What came of it" : "What is done"}</th>
              <th className={css.figure}>Copied</th>
            </tr>
          </thead>
          <tbody>
            {plans.map((p) => {
              const job = jobOf(p);
              const problem = begun.get(p.planId ?? "")?.problem;
              return (
                <tr key={p.sessionId} data-state={job?.state ?? (p.isRefused ? "Refused" : "Planned")}>
                  <th scope="row">
                    <Link to={`/sessions/${p.sessionId}/${words.station}`}>{p.name}</Link>
                  </th>
                  <td>
                    <span
                      className={
                        p.isRefused || problem || job?.state === "Failed" ? "trouble" : p.planId === null ? "quiet" : ""
                      }
                    >
                      {problem ?? (job ? `${job.message ?? (isOver(job) ? "Done." : "In work.")} ` : "")}
                      {!problem && p.sentence}
                    </span>
                    {p.warnings.length > 0 && (
                      <details>
                        <summary>{count(p.warnings.length, "remark")}</summary>
                        <ul>
                          {p.warnings.map((w) => (
                            <li key={w}>{w}</li>
                          ))}
                        </ul>
                      </details>
                    )}
                    {job?.state === "Done" && p.planId && (
                      <Link to={`/sessions/${p.sessionId}/report/${p.planId}`}>Report</Link>
                    )}
                  </td>
                  <td className={css.figure}>{p.bytes > 0 ? size(p.bytes) : ""}</td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
    </Page>
  );
}
