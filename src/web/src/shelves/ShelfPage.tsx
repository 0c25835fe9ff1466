import { useQuery } from "@tanstack/react-query";
import { Alert, Button } from "antd";
import { Link, useNavigate, useParams } from "react-router";
import { answer, api } from "../api/client";
import { keys } from "../api/queries";
import { Page } from "../frame/Page";
import { PageTitle } from "../jobs/PageTitle";
import { dayOf } from "../words";
import { besideWords, lossWords, mendedBy, sessionLossWords } from "./loss";
import css from "./shelf-page.module.css";

/** What hangs on one shelf: what would be lost, and what would go silent, were its drive to die; as a list that can be worked down. */
export function ShelfPage() {
  const { id = "" } = useParams();
  const navigate = useNavigate();
  const loss = useQuery({
    queryKey: keys.loss(id),
    staleTime: 0,
    queryFn: () => answer(api.GET("/api/shelves/{id}/loss", { params: { path: { id } } })),
  });
  const data = loss.data;
  const [worst, ...rest] = data ? lossWords(data) : [];
  return (
    <Page
      title={data ? `If ${data.name} dies` : "If this drive dies"}
      about={data && !data.connected ? <p className="quiet">It is away; this is what is known of it.</p> : undefined}
      actions={
        data && (
          <>
            {data.kind !== "Vault" && (
              <Button onClick={() => navigate(`/shelves/${id}/sessions`)}>Sessions on it</Button>
            )}
            <Button href={`/api/shelves/${id}/loss.csv`} download disabled={data.sessions.length === 0}>
              Save the list
            </Button>
          </>
        )
      }
    >
      <PageTitle>{data ? `If ${data.name} dies` : "If this drive dies"}</PageTitle>
      {loss.error && <Alert type="error" title={loss.error.message} />}
      {loss.isPending && <p className="quiet">Looking at what every session has on it.</p>}
      {data && (
        <>
          <section className={css.sum} aria-label="What would be so">
            <p className={data.lost.files > 0 ? css.worst : css.fine}>{worst}</p>
            {rest.map((words) => (
              <p key={words}>{words}</p>
            ))}
            {data.kind === "Vault" && (
              <p>The backups in it go with it, and with them every earlier version that only they hold.</p>
            )}
            {data.beside.length > 0 && <p className="quiet">{besideWords(data.beside)}</p>}
          </section>
          {data.notKnown.length > 0 && (
            <Alert
              type="warning"
              title={`Of ${data.notKnown.join(", ")} nothing is known now: ${data.notKnown.length === 1 ? "its folder" : "their folders"} cannot be looked at.`}
            />
          )}
          {data.sessions.length > 0 && (
            <ul className={css.sessions} aria-label="By session, those that lose most first">
              {data.sessions.map((s) => {
                const mend = mendedBy(s);
                return (
                  <li key={s.sessionId}>
                    <h2>
                      <Link to={`/sessions/${s.sessionId}`}>{dayOf(s.name)?.rest ?? s.name}</Link>
                    </h2>
                    <p>
                      <span className={s.lost.files > 0 ? css.lost : ""}>{sessionLossWords(s)}</span>
                      <span className="quiet">{s.standsOnIt ? " · stands on it" : ""}</span>
                    </p>
                    {mend && (
                      <Link className={css.mend} to={`/sessions/${s.sessionId}/${mend.station}`}>
                        {mend.word}
                      </Link>
                    )}
                  </li>
                );
              })}
            </ul>
          )}
          <p className="quiet">
            What counts are the media files of known sessions, and the backups that hold them as they are. Files that no
            session uses are not counted.
          </p>
        </>
      )}
    </Page>
  );
}
