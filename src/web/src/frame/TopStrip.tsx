import { App, Button, Popover, Progress } from "antd";
import { useEffect, useState } from "react";
import { Link, useMatch } from "react-router";
import { isOver, useDismissNotice, useJobs, useNotices, useRecording, useSession } from "../api/queries";
import type { Job } from "../api/types";
import { useTheme } from "../theme/useTheme";
import { count, dayOf, duration, rate, size } from "../words";
import { KeysHelp } from "./KeysHelp";
import "./frame.css";

export function TopStrip() {
  const { isNight, toggle } = useTheme();
  const [keysOpen, setKeysOpen] = useState(false);
  const match = useMatch("/sessions/:id/*");
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (e.key === "?" && !isTyping(e)) setKeysOpen(true);
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
  return (
    <>
      <header className="top-strip">
        <Link to="/" className="mark" aria-label="Neat Crate, to the loading bay">
          <img src="/mark.svg" alt="" width={26} height={26} />
          <span>Neat Crate</span>
        </Link>
        {match?.params.id ? <OpenSession id={match.params.id} /> : <span className="top-fill" />}
        <RecorderRuns />
        <RunningJobs />
        <nav className="top-links" aria-label="Places">
          <Link to="/">Loading bay</Link>
          <Link to="/shelves">Shelves</Link>
        </nav>
        <Button size="small" type="text" onClick={toggle} title="Change between the day and the night room">
          {isNight ? "Day" : "Night"}
        </Button>
        <Button size="small" type="text" onClick={() => setKeysOpen(true)} title="All keys (?)">
          Keys
        </Button>
      </header>
      <Notices />
      <KeysHelp open={keysOpen} onClose={() => setKeysOpen(false)} />
    </>
  );
}

/** True while a key belongs to a field that is being typed in. */
export function isTyping(e: KeyboardEvent): boolean {
  const target = e.target as HTMLElement | null;
  return Boolean(target?.closest("input:not([type=checkbox]):not([type=radio]), textarea, [contenteditable=true]"));
}

function OpenSession({ id }: { id: string }) {
  const { data } = useSession(id);
  if (!data) return <span className="top-fill" />;
  const { session } = data;
  const date = dayOf(session.name);
  return (
    <div className="open-label">
      <strong>{date?.rest ?? session.name}</strong>
      <span className="mono">
        {[
          date && `${date.day} ${date.month} ${date.year}`,
          session.sampleRate && `${rate(session.sampleRate)} / ${session.bitDepth} bit`,
          size(session.bytes),
        ]
          .filter(Boolean)
          .join("  ·  ")}
      </span>
      <span className={`sentence ${session.attention}`}>{session.sentence}</span>
    </div>
  );
}

/** As long as the recorder runs, every page says so: it is the one thing that must not be forgotten. */
function RecorderRuns() {
  const { data: recording } = useRecording();
  if (recording?.state !== "Recording") return null;
  return (
    <Link className="recorder-runs" to={`/sessions/${recording.sessionId}/record`}>
      <span className="pulse" aria-hidden="true" />
      recording <span className="mono">{duration(recording.seconds)}</span>
    </Link>
  );
}

function RunningJobs() {
  const { data: jobs = [] } = useJobs();
  const running = jobs.filter((j) => !isOver(j));
  if (running.length === 0) return null;
  return (
    <Popover
      content={
        <ul className="job-list">
          {running.map((job) => (
            <li key={job.id}>
              <div>{job.sentence}</div>
              <Progress percent={percent(job)} size="small" />
              <span className="mono quiet">{left(job)}</span>
            </li>
          ))}
        </ul>
      }
    >
      <Button size="small">{count(running.length, "job")} running</Button>
    </Popover>
  );
}

/** How far a job is; where nobody knows how much there is to read, it is just begun. */
export const percent = ({ bytes, bytesDone, files, filesDone }: Job) =>
  bytes > 0 ? Math.floor((100 * bytesDone) / bytes) : files > 0 ? Math.floor((100 * filesDone) / files) : 0;

/** Rate and time left in words. */
export function left(job: Job): string {
  if (job.state === "Queued") return job.message ?? "waits for other work";
  if (job.state === "Held") return job.message ?? "waits while something records";
  const rate = job.bytesDone > 0 ? `${size(job.bytesPerSecond)}/s` : null;
  const rest = job.secondsLeft === null ? null : `${duration(job.secondsLeft)} left`;
  return [rate, rest ?? (rate && `${size(job.bytesDone)} read`)].filter(Boolean).join(" · ") || "starting";
}

function Notices() {
  const { data: notices = [] } = useNotices();
  const dismiss = useDismissNotice();
  const { message } = App.useApp();
  return notices.map((notice) => (
    <div className="notice" role="status" key={notice.id}>
      <span>{notice.text}</span>
      <Button
        size="small"
        onClick={() => dismiss.mutate(notice.id, { onError: (e) => message.error(e.message) })}
        loading={dismiss.isPending}
      >
        I have read this
      </Button>
    </div>
  ));
}
