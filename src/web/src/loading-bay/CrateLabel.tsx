import { Link } from "react-router";
import type { SessionLabel } from "../api/types";
import { draft } from "../frame/kept";
import { Weighbridge } from "../weighbridge/Weighbridge";
import { count, dayOf, rate, size, when } from "../words";
import "./loading-bay.css";

const stationFor: Partial<Record<SessionLabel["attention"], string>> = { AtRisk: "copy-in" };

/** A session as a label on its crate. */
export function CrateLabel({ session }: { session: SessionLabel }) {
  const date = dayOf(session.name);
  const station = stationFor[session.attention];
  return (
    <li className={`crate ${session.attention}`}>
      <div className="stencil" aria-hidden="true">
        {date ? (
          <>
            <span className="day">{date.day}</span>
            <span>
              {date.month} {date.year.slice(2)}
            </span>
          </>
        ) : (
          <span>no date</span>
        )}
      </div>
      <div className="what">
        <h2>
          <Link to={`/sessions/${session.id}`}>{date?.rest ?? session.name}</Link>
        </h2>
        <p className="sentence">{session.sentence}</p>
      </div>
      <div className="scale">
        <Weighbridge weights={session.weights} />
        <p className="mono quiet">
          {size(session.bytes)}
          {session.sampleRate ? ` · ${rate(session.sampleRate)} / ${session.bitDepth} bit` : ""}
        </p>
      </div>
      <div className="saved mono quiet">
        <span>{session.documentChanged ? `saved ${when(session.documentChanged)}` : "no document"}</span>
        <span>
          {session.olderDocuments > 0 ? count(session.olderDocuments, "older document") : "no older document"}
        </span>
      </div>
      <div className="next">
        {station ? (
          <Link
            className="do"
            to={`/sessions/${session.id}/${station}`}
            onClick={() => draft(session.id, "copy-in something new", false)}
          >
            {session.next}
          </Link>
        ) : (
          <Link className="open" to={`/sessions/${session.id}`}>
            Open
          </Link>
        )}
      </div>
    </li>
  );
}
