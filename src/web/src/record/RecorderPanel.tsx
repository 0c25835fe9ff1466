import { Button, Input, InputNumber, Select } from "antd";
import { useRef, useState } from "react";
import { useIsConnected } from "../api/connection";
import type { RecordInfo, Recording } from "../api/types";
import { DurationInput } from "../frame/DurationInput";
import { Field } from "../frame/Field";
import { useKeptFocus } from "../frame/focus";
import { count, duration, number, rate, size } from "../words";
import { useRecorder } from "./queries";
import css from "./record.module.css";
import type { RecordChoices } from "./useRecordChoices";

const speeds = [1, 2, 5, 10, 20, 50];

interface Props {
  sessionId: string;
  info: RecordInfo;
  recording: Recording | null;
  choices: RecordChoices;
  /** True when starting is the one thing to do next. */
  isNext: boolean;
}

/** The recorder: which tracks are armed, how long, and how it goes. */
export function RecorderPanel({ sessionId, info, recording, choices, isNext }: Props) {
  const { start, stop, cutPower } = useRecorder(sessionId);
  const [pass, setPass] = useState<number | null>(null);
  const isConnected = useIsConnected();
  const runs = recording?.state === "Recording";
  const runsHere = runs && recording.sessionId === sessionId;
  useKeptFocus(`${runsHere}`, `.${css.deckActions}`);
  const names = info.tracks.map((t) => t.name);
  const armed = choices.armed.filter((t) => t.trim() !== "");
  const extra = armed.filter((t) => !names.includes(t));
  const error = start.error ?? stop.error ?? cutPower.error;
  return (
    <section className={css.recorder} aria-label="Recorder">
      <div className={css.arming}>
        {runsHere ? (
          <RunningTakes recording={recording} />
        ) : (
          <ArmedTracks info={info} armed={armed} extra={extra} onArm={(next) => choices.set({ armed: next })} />
        )}
      </div>
      <div className={css.deck}>
        {runsHere ? (
          <p className={css.counter} role="timer">
            <strong>{duration(recording.seconds)}</strong>
            <span className="mono">
              {` of ${duration(recording.length)} · pass ${recording.pass}${recording.speed > 1 ? ` · ${recording.speed}× as fast` : ""}`}
            </span>
          </p>
        ) : (
          <div className={css.deckFields}>
            <Field label="Length">
              {(id) => (
                <DurationInput
                  id={id}
                  value={choices.seconds}
                  least={1}
                  onChange={(seconds) => choices.set({ seconds })}
                />
              )}
            </Field>
            <Field label="From">
              {(id) => (
                <DurationInput
                  id={id}
                  value={choices.fromSeconds}
                  least={0}
                  onChange={(fromSeconds) => choices.set({ fromSeconds })}
                />
              )}
            </Field>
            <Field label="Pass">
              {(id) => <InputNumber id={id} min={1} max={9999} value={pass ?? info.nextPass} onChange={setPass} />}
            </Field>
            <Field label="Demo speed">
              {(id) => (
                <Select
                  id={id}
                  value={choices.speed}
                  onChange={(speed) => choices.set({ speed })}
                  options={speeds.map((s) => ({ value: s, label: `${s}×`, title: `${s}×` }))}
                />
              )}
            </Field>
          </div>
        )}
        <div className={css.deckActions}>
          {runsHere ? (
            <>
              <Button type="primary" loading={stop.isPending} onClick={() => stop.mutate()}>
                Stop
              </Button>
              <Button type="text" loading={cutPower.isPending} onClick={() => cutPower.mutate()}>
                Cut the recorder's power
              </Button>
            </>
          ) : (
            <Button
              type={isNext ? "primary" : "default"}
              disabled={armed.length === 0 || info.whyNot !== null || runs || !isConnected}
              loading={start.isPending}
              onClick={() =>
                start.mutate(
                  {
                    tracks: [...armed],
                    seconds: choices.seconds,
                    fromSeconds: choices.fromSeconds,
                    pass,
                    speed: choices.speed,
                    cutPowerAfter: null,
                  },
                  { onSuccess: () => setPass(null) },
                )
              }
            >
              {`Record ${armed.length === 0 ? "" : count(armed.length, "track")}`}
            </Button>
          )}
          <span className="mono quiet">{`${rate(info.sampleRate)} / ${info.bitDepth} bit`}</span>
        </div>
        {error && <p className="trouble">{error.message}</p>}
        {info.whyNot && <p className="trouble">{info.whyNot}</p>}
        {runs && !runsHere && <p className="warning">{`The recorder runs in “${recording.session}”.`}</p>}
        <Room info={info} armed={armed.length} />
      </div>
    </section>
  );
}

interface ArmedProps {
  info: RecordInfo;
  armed: readonly string[];
  extra: readonly string[];
  onArm: (armed: string[]) => void;
}

function ArmedTracks({ info, armed, extra, onArm }: ArmedProps) {
  const [name, setName] = useState("");
  const tracks = [...info.tracks, ...extra.map((t) => ({ name: t, takes: 0, nextTake: 1 }))];
  const names = tracks.map((t) => t.name);
  const last = useRef<string | null>(null);
  /** One track, or with Shift all from the last one that was pressed. */
  const toggle = (track: string, on: boolean, isRange: boolean) => {
    const [from, to] = [names.indexOf(last.current ?? track), names.indexOf(track)];
    const these = isRange && from >= 0 ? names.slice(Math.min(from, to), Math.max(from, to) + 1) : [track];
    last.current = track;
    onArm(on ? [...new Set([...armed, ...these])] : armed.filter((t) => !these.includes(t)));
  };
  const add = () => {
    if (name.trim() && !armed.includes(name.trim())) onArm([...armed, name.trim()]);
    setName("");
  };
  return (
    <fieldset className={css.armed}>
      <legend>Armed tracks</legend>
      {names.length > 1 && (
        <p className={css.armAll}>
          <Button size="small" disabled={armed.length === names.length} onClick={() => onArm(names)}>
            All
          </Button>
          <Button size="small" disabled={armed.length === 0} onClick={() => onArm([])}>
            None
          </Button>
          <span className="quiet">{`${number(armed.length)} of ${number(names.length)} armed; Shift for a range`}</span>
        </p>
      )}
      <ul>
        {tracks.map((track) => (
          <li key={track.name}>
            <label>
              <input
                type="checkbox"
                checked={armed.includes(track.name)}
                onChange={(e) => toggle(track.name, e.target.checked, (e.nativeEvent as MouseEvent).shiftKey)}
              />
              <span className={css.trackName} title={track.name}>
                {track.name}
              </span>
              <span className="mono quiet">
                {track.takes > 0
                  ? `take ${track.nextTake} next`
                  : extra.includes(track.name)
                    ? "new track"
                    : "no take yet"}
              </span>
            </label>
          </li>
        ))}
      </ul>
      <Input
        size="small"
        aria-label="Arm a new track"
        placeholder="a new track: name, Enter"
        maxLength={80}
        value={name}
        onChange={(e) => setName(e.target.value)}
        onPressEnter={add}
        onBlur={add}
      />
    </fieldset>
  );
}

const mirrorWord: Record<Recording["takes"][number]["mirror"], string> = {
  None: "",
  Following: "mirrored",
  Gone: "mirror gone, the take goes on",
};

function RunningTakes({ recording }: { recording: Recording }) {
  return (
    <ul className={css.runningTakes}>
      {recording.takes.map((take) => (
        <li key={take.track}>
          <span className={css.trackName} title={take.track}>
            {take.track}
          </span>
          <span className="mono">{`take ${take.take}`}</span>
          <span className={css.tape} aria-hidden="true">
            <span style={{ width: `${Math.min(100, (100 * take.seconds) / recording.length)}%` }} />
          </span>
          <span className="mono">{size(take.bytes)}</span>
          <span className={take.mirror === "Gone" || take.problem ? "trouble" : "quiet"}>
            {take.problem ?? mirrorWord[take.mirror]}
          </span>
        </li>
      ))}
    </ul>
  );
}

/** How long the drives last, and how the mirror stands. */
function Room({ info, armed }: { info: RecordInfo; armed: number }) {
  const { mirror } = info;
  return (
    <dl className={css.room}>
      <div>
        <dt>Time left</dt>
        <dd>
          {info.secondsLeft === null
            ? "arm a track to see it"
            : `${duration(info.secondsLeft)} on this drive, ${count(armed, "track")} at ${size(info.bytesPerSecond * 60)} a minute`}
        </dd>
      </div>
      <div>
        <dt>Mirror</dt>
        <dd>
          {mirror === null
            ? "none; choose a shelf under Set up, Settings"
            : [
                `${mirror.shelfName}${mirror.connected ? "" : ", away: takes go on without it"}`,
                mirror.connected && mirror.onSameDrive && "on the same drive: no protection if it fails",
                info.mirrorSecondsLeft !== null && `${duration(info.mirrorSecondsLeft)} left`,
                mirror.verified > 0 && `${count(mirror.verified, "take")} verified`,
              ]
                .filter(Boolean)
                .join("; ")}
        </dd>
      </div>
    </dl>
  );
}
