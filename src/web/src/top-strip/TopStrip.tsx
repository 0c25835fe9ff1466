import { Button } from "antd";
import { lazy, Suspense, useState } from "react";
import { Link, useMatch } from "react-router";
import { useDismissNotice, useNotices, useRecording, useSession } from "../api/queries";
import { Act } from "../frame/Act";
import { useShortcut } from "../frame/keys";
import { useTell } from "../frame/Tell";
import { SoundInHand } from "../listening/SoundInHand";
import { Sentence } from "../session/Sentence";
import { useTheme } from "../theme/useTheme";
import { dayOf, duration, rate, size } from "../words";
import { ConnectionLost } from "./ConnectionLost";
import { JobsMenu } from "./JobsMenu";
import { QuickOpen } from "./QuickOpen";
import css from "./top-strip.module.css";
import { useDropElsewhere } from "./useDropElsewhere";

// Dialogs come when they are asked for: the first page is there sooner without them.
const Help = lazy(() => import("./Help").then((m) => ({ default: m.Help })));

const JobNews = lazy(() => import("./JobNews").then((m) => ({ default: m.JobNews })));

export function TopStrip() {
  const { isNight, toggle } = useTheme();
  const [helpOpen, setHelpOpen] = useState(false);
  const match = useMatch("/sessions/:id/*");
  useDropElsewhere(match !== null);
  useShortcut("?", () => setHelpOpen(true));
  return (
    <>
      <header className={css.topStrip}>
        <Link to="/" className={css.mark} aria-label="Neat Crate, to the loading bay">
          <img src="/mark.svg" alt="" width={26} height={26} />
          <span>Neat Crate</span>
        </Link>
        {match?.params.id ? <OpenSession id={match.params.id} /> : <span className={css.topFill} />}
        <RecorderRuns />
        <nav className={css.topLinks} aria-label="Places">
          <Link to="/">Loading bay</Link>
          <Link to="/shelves">Shelves</Link>
          <Link to="/settings">Settings</Link>
        </nav>
        <QuickOpen />
        <JobsMenu />
        <Button
          size="small"
          type="text"
          onClick={toggle}
          title={isNight ? "Switch to day colours" : "Switch to night colours"}
        >
          {isNight ? "Day" : "Night"}
        </Button>
        <Button
          size="small"
          type="text"
          onClick={() => setHelpOpen(true)}
          title="What this page is for, and all keys (?)"
        >
          Help
        </Button>
      </header>
      <ConnectionLost />
      <SoundInHand />
      <Suspense>
        <JobNews />
      </Suspense>
      <Notices />
      {helpOpen && (
        <Suspense>
          <Help onClose={() => setHelpOpen(false)} />
        </Suspense>
      )}
    </>
  );
}

function OpenSession({ id }: { id: string }) {
  const { data } = useSession(id);
  if (!data) return <span className={css.topFill} />;
  const { session } = data;
  const date = dayOf(session.name);
  return (
    <div className={css.openLabel}>
      <strong title={session.name}>{date?.rest ?? session.name}</strong>
      <span className="mono">
        {[
          date && `${date.day} ${date.month} ${date.year}`,
          session.sampleRate && `${rate(session.sampleRate)} / ${session.bitDepth} bit`,
          size(session.bytes),
        ]
          .filter(Boolean)
          .join("  ·  ")}
      </span>
      <span className={css.sentence} data-attention={session.attention}>
        <Sentence session={session} />
      </span>
    </div>
  );
}

/** As long as the recorder runs, every page says so: it is the one thing that must not be forgotten. */
function RecorderRuns() {
  const { data: recording } = useRecording();
  if (recording?.state !== "Recording") return null;
  return (
    <Link className={css.recorderRuns} to={`/sessions/${recording.sessionId}/record`}>
      <span className={css.pulse} aria-hidden="true" />
      recording <span className="mono">{duration(recording.seconds)}</span>
    </Link>
  );
}

function Notices() {
  const { data: notices = [] } = useNotices();
  const dismiss = useDismissNotice();
  const message = useTell();
  return notices.map((notice) => (
    <div className={css.notice} role="status" key={notice.id}>
      <span>{notice.text}</span>
      <Act
        size="small"
        onClick={() => dismiss.mutate(notice.id, { onError: (e) => message.error(e.message) })}
        loading={dismiss.isPending}
      >
        Dismiss
      </Act>
    </div>
  ));
}
