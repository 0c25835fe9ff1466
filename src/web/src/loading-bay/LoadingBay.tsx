import { Alert, Button } from "antd";
// By itself: with it the first page would load all other kinds of inputs.
import Input from "antd/es/input/Input";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { useSessions, useShelves } from "../api/queries";
import { Page } from "../frame/Page";
import { PageTitle } from "../jobs/PageTitle";
import { count } from "../words";
import { CrateLabel } from "./CrateLabel";
import css from "./loading-bay.module.css";

/** Home: all sessions, those that need somebody first. */
export function LoadingBay() {
  const sessions = useSessions();
  const shelves = useShelves();
  const navigate = useNavigate();
  const [filter, setFilter] = useState("");
  const all = sessions.data ?? [];
  const shown = all.filter((s) => s.name.toLowerCase().includes(filter.trim().toLowerCase()));
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
          {all.length > 6 && (
            <Input
              allowClear
              placeholder="Filter by name"
              aria-label="Filter sessions by name"
              value={filter}
              onChange={(e) => setFilter(e.target.value)}
            />
          )}
          <Button onClick={() => navigate("/adopt")} disabled={shelves.data?.length === 0}>
            Adopt a folder
          </Button>
          <Button type="primary" onClick={() => navigate("/new")} disabled={shelves.data?.length === 0}>
            New session
          </Button>
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
      {sessions.data?.length === 0 && <Empty hasShelves={(shelves.data?.length ?? 0) > 0} />}
      <ul className={css.crates}>
        {shown.map((session) => (
          <CrateLabel key={session.id} session={session} />
        ))}
      </ul>
      {all.length > 0 && shown.length === 0 && <p className="quiet">No session has “{filter}” in its name.</p>}
    </Page>
  );
}

function Empty({ hasShelves }: { hasShelves: boolean }) {
  return (
    <section className="empty">
      <h2>Your sessions appear here, with what each one needs.</h2>
      {hasShelves ? (
        <p>
          Start with <Link to="/new">a new session</Link>, or <Link to="/adopt">adopt the folder</Link> of one that you
          have.
        </p>
      ) : (
        <p>
          First tell Neat Crate where your sessions live: <Link to="/shelves">add a shelf</Link>. A shelf is a drive or
          a folder; nothing in it is changed by adding it.
        </p>
      )}
    </section>
  );
}
