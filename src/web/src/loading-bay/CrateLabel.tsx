import { Link, useNavigate } from "react-router";
import { useForgetSession } from "../api/queries";
import type { SessionLabel } from "../api/types";
import { draft } from "../frame/kept";
import { RowMenu } from "../frame/RowMenu";
import { useTell } from "../frame/Tell";
import { Sentence } from "../session/Sentence";
import { stationFor } from "../session/stationFor";
import { Weighbridge } from "../weighbridge/Weighbridge";
import { backedUp, count, dayOf, onlyHere, rate, size, when } from "../words";
import css from "./loading-bay.module.css";

/** What is in sight first there is what the label says. */
function choose(session: SessionLabel) {
  draft(session.id, "copy-in something new", false);
  draft(session.id, "relink sheet", "missing");
}

interface Props {
  session: SessionLabel;
  /** Where several are chosen: whether it is one of them. */
  pick: { isPicked: boolean; press: (on: boolean) => void } | null;
}

/** A session as a label on its crate. */
export function CrateLabel({ session, pick }: Props) {
  const date = dayOf(session.name);
  const station = stationFor[session.attention];
  return (
    <li className={css.crate} data-attention={session.attention}>
      <div className={css.stencil} aria-hidden="true">
        {date ? (
          <>
            <span className={css.day}>{date.day}</span>
            <span>
              {date.month} {date.year.slice(2)}
            </span>
          </>
        ) : (
          <span>no date</span>
        )}
      </div>
      {pick && (
        <label className={css.pick}>
          <input
            type="checkbox"
            aria-label={`Choose ${session.name}`}
            checked={pick.isPicked}
            onChange={(e) => pick.press(e.target.checked)}
          />
        </label>
      )}
      <div className={css.what}>
        <h2>
          <Link to={`/sessions/${session.id}`}>{date?.rest ?? session.name}</Link>
        </h2>
        <p className={css.sentence}>
          <Sentence session={session} />
        </p>
      </div>
      <div className={css.scale}>
        <Weighbridge weights={session.weights} />
        <p className="mono quiet">
          {size(session.bytes)}
          {session.sampleRate ? ` · ${rate(session.sampleRate)} / ${session.bitDepth} bit` : ""}
        </p>
      </div>
      <div className={`${css.saved} mono quiet`}>
        <span>{session.documentChanged ? `saved ${when(session.documentChanged)}` : "no document"}</span>
        <BackupLine session={session} />
      </div>
      <div className={css.next}>
        {station ? (
          <Link className={css.do} to={`/sessions/${session.id}/${station}`} onClick={() => choose(session)}>
            {session.next}
          </Link>
        ) : (
          <Link className={css.open} to={`/sessions/${session.id}`}>
            Open
          </Link>
        )}
        <RareActions session={session} />
      </div>
    </li>
  );
}

/** Whether it is backed up: what is only here is the word that alarms. */
function BackupLine({ session: { id, backup, olderDocuments } }: { session: SessionLabel }) {
  if (!backup) return <span>{olderDocuments > 0 ? count(olderDocuments, "older document") : "no older document"}</span>;
  const words = backedUp(backup);
  return (
    <Link className={css.backup} to={`/sessions/${id}/backups`} title={backup.sentence}>
      {onlyHere(backup) ? <strong>{words}</strong> : words}
    </Link>
  );
}

function RareActions({ session }: { session: SessionLabel }) {
  const forget = useForgetSession();
  const message = useTell();
  const navigate = useNavigate();
  const go = (station: string) => navigate(`/sessions/${session.id}/${station}`);
  return (
    <RowMenu
      of={session.name}
      row={`.${css.crate}`}
      actions={[
        { label: "Back up", act: () => go("backups") },
        { label: "Bundle", act: () => go("bundle") },
        {
          label: "Remove from list",
          act: () => forget.mutate(session.id, { onError: (e) => message.error(e.message) }),
          sure: {
            question: `Remove “${session.name}” from the list?`,
            // Its folder and everything in it stay as they are.
            means: "No file is touched. Adopting its folder brings it back; its history here is forgotten.",
            yes: "Remove from list",
          },
        },
      ]}
    />
  );
}
