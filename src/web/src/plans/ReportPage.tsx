import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { Link, useParams } from "react-router";
import { answer, api } from "../api/client";
import { Page } from "../frame/Page";
import { PageTitle } from "../jobs/PageTitle";
import { count, placeText, size, when } from "../words";
import css from "./report.module.css";

/** What a clean-up did, file by file: to be read, printed, or kept as a table. */
export function ReportPage() {
  const { id = "", planId = "" } = useParams();
  const report = useQuery({
    queryKey: ["report", planId],
    queryFn: () => answer(api.GET("/api/plans/{id}/report", { params: { path: { id: planId } } })),
  });
  const data = report.data;
  return (
    <Page
      title="What was done"
      about={<p className="quiet">{data ? `${data.session}, ${when(data.ended)}` : "One moment."}</p>}
      actions={
        <span className={css.tools}>
          <Link to={`/sessions/${id}/purge`}>To the session</Link>
          <a href={`/api/plans/${planId}/report.csv`} download>
            As CSV
          </a>
          <Button onClick={() => window.print()}>Print</Button>
        </span>
      }
    >
      <PageTitle>What was done</PageTitle>
      {report.error && (
        <p className="trouble" role="alert">
          {report.error.message}
        </p>
      )}
      {data && (
        <>
          <p>{data.sentence}</p>
          <div className={css.report}>
            <table aria-label="What was done to each file">
              <thead>
                <tr>
                  <th>What</th>
                  <th>File</th>
                  <th>To</th>
                  <th className={css.figure}>Size</th>
                  <th>Why</th>
                </tr>
              </thead>
              <tbody>
                {data.lines.map((l) => (
                  <tr key={`${l.verb} ${l.to.path}`}>
                    <td>{l.verb}</td>
                    <td className="path">{placeText(l.from ?? l.to)}</td>
                    <td className="path">{l.from ? placeText(l.to) : ""}</td>
                    <td className={css.figure}>{l.bytes > 0 ? size(l.bytes) : ""}</td>
                    <td>{l.reason}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
          <p className="quiet">{`${count(data.lines.length, "line")}, ${size(data.lines.reduce((sum, l) => sum + l.bytes, 0))}.`}</p>
        </>
      )}
    </Page>
  );
}
