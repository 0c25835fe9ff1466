import { useQuery } from "@tanstack/react-query";
import { Alert, Button, Select } from "antd";
import { useDeferredValue, useEffect, useMemo, useState } from "react";
import { useNavigate } from "react-router";
import { answer, api } from "../api/client";
import { usePresets, useShelves } from "../api/queries";
import type { Budget, Preset, SetUpView, Shelf } from "../api/types";
import { Field } from "../frame/Field";
import { PlanTray } from "../plans/PlanTray";
import { usePlanRun } from "../plans/usePlanRun";
import "../session/session.css";
import { type FolderChoice, FolderPicker } from "../shelves/FolderPicker";
import { duration, size } from "../words";
import { NameParts } from "./NameParts";
import { PresetBar } from "./PresetBar";
import "./set-up.css";
import { SettingsFields } from "./SettingsFields";

/** A new session: everything is seen before anything is made. */
export function NewSession() {
  const presets = usePresets();
  const shelves = useShelves();
  const trouble = presets.error ?? shelves.error;
  if (trouble) {
    return (
      <main className="page">
        <Alert type="error" title={trouble.message} />
      </main>
    );
  }
  const first = presets.data?.[0];
  return first && shelves.data ? (
    <Form presets={presets.data ?? []} first={first} shelves={shelves.data} />
  ) : (
    <main className="page quiet">One moment.</main>
  );
}

function Form({ presets, first, shelves }: { presets: readonly Preset[]; first: Preset; shelves: readonly Shelf[] }) {
  const navigate = useNavigate();
  const run = usePlanRun(null);
  const [preset, setPreset] = useState(first);
  const [place, setPlace] = useState<FolderChoice>({ shelfId: undefined, path: "" });
  const [mirrorShelfId, setMirror] = useState<string | null>(null);
  useEffect(() => {
    const drive = shelves.find((s) => s.kind === "SessionDrive" && s.connected);
    if (drive && !place.shelfId) setPlace({ shelfId: drive.id, path: "" });
  }, [shelves, place.shelfId]);
  const set = (part: Partial<Preset>) => {
    run.moveOn();
    setPreset({ ...preset, ...part });
  };

  const choice = useDeferredValue(
    useMemo(() => {
      const { nameParts, separator, settings, layout, tracks } = preset;
      return {
        nameParts,
        separator,
        settings,
        layout,
        tracks,
        shelfId: place.shelfId ?? "",
        parentPath: place.path,
        mirrorShelfId,
      };
    }, [preset, place, mirrorShelfId]),
  );
  const view = useQuery({
    queryKey: ["plan", "set-up", choice],
    enabled: choice.shelfId !== "" && run.job === null,
    gcTime: 0,
    staleTime: 60_000,
    placeholderData: (previous) => previous,
    queryFn: () => answer(api.POST("/api/set-up/plan", { body: choice })),
  });
  const suggestion = view.data?.plan?.refusals.length ? view.data.suggestion : null;
  const made = run.job?.state === "Done" ? run.job.sessionId : null;
  return (
    <div className="new-session">
      <main className="station">
        <div className="station-head">
          <h1>New session</h1>
          <p className="quiet">A folder of its own for every song. Nothing is made before you apply the plan below.</p>
        </div>
        <PresetBar presets={presets} current={preset} onChoose={setPreset} />
        <div className="new-columns">
          <div className="fields">
            <NameParts
              parts={preset.nameParts}
              separator={preset.separator}
              onChange={(nameParts, separator) => set({ nameParts, separator })}
            />
            <FolderPicker label="Under" value={place} onChange={setPlace} />
            <SettingsFields value={preset.settings} onChange={(settings) => set({ settings })} />
            <Field label="Tracks">
              {(id) => (
                <Select
                  id={id}
                  mode="tags"
                  open={false}
                  suffixIcon={null}
                  value={preset.tracks}
                  onChange={(tracks) => set({ tracks })}
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
                  value={preset.layout.others}
                  onChange={(others) => set({ layout: { ...preset.layout, others } })}
                  placeholder="lyrics, charts, reference tracks"
                  tokenSeparators={[","]}
                />
              )}
            </Field>
            <Field label="Mirror takes to">
              {(id) => (
                <Select
                  id={id}
                  allowClear
                  placeholder="no second drive"
                  value={mirrorShelfId}
                  onChange={(v) => setMirror(v ?? null)}
                  options={shelves
                    .filter((s) => s.connected && s.id !== place.shelfId)
                    .map((s) => ({ value: s.id, label: s.name, title: s.name }))}
                />
              )}
            </Field>
          </div>
          <div className="fields">
            <Preview view={view.data ?? null} />
            {view.data && <BudgetFigures budget={view.data.budget} tracks={preset.tracks.length} />}
          </div>
        </div>
        <PlanTray
          run={run}
          plan={view.data?.plan ?? null}
          planning={view.isFetching && !view.data}
          error={view.error?.message ?? null}
          applyWord="Make the session"
          idle="Give the session a name: the date is there, a working title will do."
          offer={
            suggestion && (
              <Button
                onClick={() => set({ nameParts: [{ kind: "FreeText", text: suggestion }] })}
              >{`Name it “${suggestion}”`}</Button>
            )
          }
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

/** The tree that would be made, as it would stand on disk, and the name among its neighbours. */
function Preview({ view }: { view: SetUpView | null }) {
  const plan = view?.plan;
  if (!view || !plan || plan.steps.length === 0) {
    return (
      <section className="preview quiet" aria-label="What will be made">
        <p>The folder and its tree show here before they are made.</p>
      </section>
    );
  }
  const root = plan.steps[0]?.to.path.length ?? 0;
  return (
    <section className="preview" aria-label="What will be made">
      <code className="path">{view.fullPath}</code>
      <ol className="neighbours" aria-label="The name among its neighbours">
        {view.before.map((name) => (
          <li key={name}>{name}</li>
        ))}
        <li className="new-one">
          <strong>{view.name}</strong>
          <ul className="tree">
            {plan.steps.slice(1).map((step) => (
              <li key={step.to.path} className={step.kind === "WriteDocument" ? "document" : "folder"}>
                {step.to.path.slice(root + 1)}
                <small>{step.reason}</small>
              </li>
            ))}
          </ul>
        </li>
        {view.after.map((name) => (
          <li key={name}>{name}</li>
        ))}
      </ol>
    </section>
  );
}

/** What the session will weigh, and how long the drives last. */
function BudgetFigures({ budget, tracks }: { budget: Budget; tracks: number }) {
  const rows: [string, string | null][] = [
    ["Once through", tracks > 0 ? size(budget.expectedBytes) : "name the tracks to see what they weigh"],
    ["Data rate", tracks > 0 ? `${size(budget.bytesPerSecond * 60)} a minute` : null],
    ["Recording time left", budget.secondsLeft === null ? null : duration(budget.secondsLeft)],
    ["On the mirror's drive", budget.mirrorSecondsLeft === null ? null : duration(budget.mirrorSecondsLeft)],
    ["One take reaches 4 GiB", `after ${duration(budget.secondsToLimit)}; it goes on as RF64 in the same file`],
  ];
  return (
    <dl className="budget" aria-label="Weight and time">
      {rows.map(
        ([name, value]) =>
          value && (
            <div key={name}>
              <dt>{name}</dt>
              <dd>{value}</dd>
            </div>
          ),
      )}
    </dl>
  );
}
