import { useQuery } from "@tanstack/react-query";
import { Button, Input, InputNumber, Select } from "antd";
import { useDeferredValue, useEffect, useMemo, useState } from "react";
import { useNavigate } from "react-router";
import { answer, api } from "../api/client";
import { useShelves } from "../api/queries";
import type { Plan } from "../api/types";
import { Field } from "../frame/Field";
import { PlanTray } from "../plans/PlanTray";
import { usePlanRun } from "../plans/usePlanRun";
import { type FolderChoice, FolderPicker } from "../shelves/FolderPicker";
import "./set-up.css";
import "../session/session.css";

const rates = [44100, 48000, 88200, 96000, 176400, 192000];
const depths = [16, 24, 32];
const signatures = ["4/4", "3/4", "6/8", "2/4", "5/4", "7/8", "12/8"];

/** Today as the start of a name, YYMMDD: names then sort by time. */
function today(): string {
  const now = new Date();
  const two = (n: number) => String(n).padStart(2, "0");
  return `${two(now.getFullYear() % 100)}${two(now.getMonth() + 1)}${two(now.getDate())}`;
}

/** A new session: everything is seen before anything is made. */
export function NewSession() {
  const shelves = useShelves();
  const navigate = useNavigate();
  const run = usePlanRun(null);
  const standard = useQuery({
    queryKey: ["set-up", "standard"],
    queryFn: () => answer(api.GET("/api/set-up/standard")),
  });
  const [name, setName] = useState(`${today()} `);
  const [place, setPlace] = useState<FolderChoice>({ shelfId: undefined, path: "" });
  const [sampleRate, setSampleRate] = useState(48000);
  const [bitDepth, setBitDepth] = useState(24);
  const [tempo, setTempo] = useState(120);
  const [timeSignature, setTimeSignature] = useState("4/4");
  const [tracks, setTracks] = useState<string[]>([]);
  const [others, setOthers] = useState<string[] | null>(null);
  useEffect(() => {
    const drive = shelves.data?.find((s) => s.kind === "SessionDrive" && s.connected);
    if (drive && !place.shelfId) setPlace({ shelfId: drive.id, path: "" });
  }, [shelves.data, place.shelfId]);

  const layout = standard.data && { ...standard.data, others: others ?? standard.data.others };
  const choice = useDeferredValue(
    useMemo(
      () =>
        layout && {
          name,
          shelfId: place.shelfId ?? "",
          parentPath: place.path,
          sampleRate,
          bitDepth,
          tempo,
          timeSignature,
          layout,
          tracks,
        },
      [name, place, sampleRate, bitDepth, tempo, timeSignature, layout, tracks],
    ),
  );
  const isNamed = name.trim().length > 0 && name.trim() !== today();
  const plan = useQuery({
    queryKey: ["plan", "set-up", choice],
    enabled: isNamed && choice !== undefined && choice.shelfId !== "" && run.job === null,
    gcTime: 0,
    staleTime: 60_000,
    placeholderData: (previous) => previous,
    queryFn: () => {
      if (!choice) throw new Error("The folder layout is not there yet.");
      return answer(api.POST("/api/set-up/plan", { body: choice }));
    },
  });
  const shown = isNamed ? (plan.data ?? null) : null;
  const made = run.job?.state === "Done" ? run.job.sessionId : null;
  return (
    <div className="new-session">
      <main className="station">
        <div className="station-head">
          <h1>New session</h1>
          <p className="quiet">A folder of its own for every song. Nothing is made before you apply the plan below.</p>
        </div>
        <div className="new-columns">
          <div className="fields">
            <Field label="Name">
              {(id) => (
                <Input
                  id={id}
                  autoFocus
                  className="name-field"
                  value={name}
                  maxLength={240}
                  onChange={(e) => setName(e.target.value)}
                  placeholder="date and working title"
                />
              )}
            </Field>
            <FolderPicker label="Under" value={place} onChange={setPlace} />
            <div className="field-row">
              <Field label="Sample rate">
                {(id) => (
                  <Select
                    id={id}
                    value={sampleRate}
                    onChange={setSampleRate}
                    options={rates.map((r) => ({ value: r, label: `${r / 1000} kHz` }))}
                  />
                )}
              </Field>
              <Field label="Bit depth">
                {(id) => (
                  <Select
                    id={id}
                    value={bitDepth}
                    onChange={setBitDepth}
                    options={depths.map((d) => ({ value: d, label: `${d} bit` }))}
                  />
                )}
              </Field>
              <Field label="Tempo">
                {(id) => <InputNumber id={id} min={10} max={400} value={tempo} onChange={(v) => setTempo(v ?? 120)} />}
              </Field>
              <Field label="Time signature">
                {(id) => (
                  <Select
                    id={id}
                    value={timeSignature}
                    onChange={setTimeSignature}
                    options={signatures.map((s) => ({ value: s, label: s }))}
                  />
                )}
              </Field>
            </div>
            <Field label="Tracks">
              {(id) => (
                <Select
                  id={id}
                  mode="tags"
                  open={false}
                  suffixIcon={null}
                  value={tracks}
                  onChange={setTracks}
                  placeholder="type a name, Enter, the next"
                  tokenSeparators={[","]}
                />
              )}
            </Field>
            <Field label="Folders of your own">
              {(id) => (
                <Select
                  id={id}
                  mode="tags"
                  open={false}
                  suffixIcon={null}
                  value={others ?? standard.data?.others ?? []}
                  onChange={setOthers}
                  placeholder="lyrics, charts, reference tracks"
                  tokenSeparators={[","]}
                />
              )}
            </Field>
          </div>
          <Preview plan={shown} name={name} shelfRoot={shelves.data?.find((s) => s.id === place.shelfId)?.root ?? ""} />
        </div>
        <PlanTray
          run={run}
          plan={shown}
          planning={plan.isFetching}
          error={plan.error?.message ?? null}
          applyWord="Make the session"
          idle="Give the session a name: the date is there, a working title will do."
          after={
            made && (
              <Button type="primary" onClick={() => navigate(`/sessions/${made}`)}>
                Open it
              </Button>
            )
          }
        />
      </main>
    </div>
  );
}

/** The tree that would be made, as it would stand on disk. */
function Preview({ plan, name, shelfRoot }: { plan: Plan | null; name: string; shelfRoot: string }) {
  if (!plan || plan.steps.length === 0) {
    return (
      <section className="preview quiet" aria-label="What will be made">
        <p>The folder and its tree show here before they are made.</p>
      </section>
    );
  }
  const root = plan.steps[0]?.to;
  const steps = plan.steps.slice(1);
  return (
    <section className="preview" aria-label="What will be made">
      <p className="quiet">The whole path</p>
      <code className="path">{`${shelfRoot}/${root?.path}`}</code>
      <ul className="tree">
        <li>
          <strong>{name.trim()}</strong>
          <ul>
            {steps.map((step) => {
              const relative = step.to.path.slice((root?.path.length ?? 0) + 1);
              return (
                <li key={step.to.path} className={step.kind === "WriteDocument" ? "document" : "folder"}>
                  {relative}
                  <small>{step.reason}</small>
                </li>
              );
            })}
          </ul>
        </li>
      </ul>
    </section>
  );
}
