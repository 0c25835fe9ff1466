import { useQuery } from "@tanstack/react-query";
import { Alert, Button, InputNumber } from "antd";
import { useDeferredValue, useEffect, useMemo, useState } from "react";
import { useNavigate } from "react-router";
import { answer, api } from "../api/client";
import { usePresets, useShelves } from "../api/queries";
import type { Budget, Layout, NamePart, Preset, SetUpView, Shelf } from "../api/types";
import { Field } from "../frame/Field";
import { NamesInput } from "../frame/NamesInput";
import { PlanTray } from "../plans/PlanTray";
import { usePlanRun } from "../plans/usePlanRun";
import "../session/session.css";
import { type FolderChoice, FolderPicker } from "../shelves/FolderPicker";
import { duration, size } from "../words";
import { LayoutTree } from "./LayoutTree";
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
        // A folder that was added and not named yet is none.
        layout: { ...layout, others: layout.others.filter((f) => f.trim() !== "") },
        tracks,
        shelfId: place.shelfId ?? "",
        parentPath: place.path,
      };
    }, [preset, place]),
  );
  const view = useQuery({
    queryKey: ["plan", "set-up", choice],
    enabled: choice.shelfId !== "" && run.job === null,
    gcTime: 0,
    staleTime: 60_000,
    placeholderData: (previous) => previous,
    queryFn: () => answer(api.POST("/api/set-up/plan", { body: choice })),
  });
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
            {view.data && <Checks view={view.data} onFix={(nameParts) => set({ nameParts })} />}
            <FolderPicker label="Under" value={place} onChange={setPlace} />
            <SettingsFields value={preset.settings} onChange={(settings) => set({ settings })} />
            <TrackNames tracks={preset.tracks} onChange={(tracks) => set({ tracks })} />
          </div>
          <div className="fields">
            <Preview view={view.data ?? null} layout={preset.layout} onLayout={(layout) => set({ layout })} />
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

/** What was found about the name, and one about which nothing would be found. */
function Checks({ view, onFix }: { view: SetUpView; onFix: (parts: NamePart[]) => void }) {
  const { checks, fix, fixParts } = view;
  if (checks.length === 0) return null;
  return (
    <div className="checks" role="status" aria-label="About the name">
      <ul>
        {checks.map((check) => (
          <li key={check.sentence} className={check.blocks ? "trouble" : "warning"}>
            {check.sentence}
          </li>
        ))}
      </ul>
      {fix && fixParts && <Button size="small" onClick={() => onFix(fixParts)}>{`Use “${fix}”`}</Button>}
    </div>
  );
}

/** The number of tracks and their names: the number adds numbered ones, names are typed over. */
function TrackNames({ tracks, onChange }: { tracks: readonly string[]; onChange: (tracks: string[]) => void }) {
  const setNumber = (number: number) =>
    onChange(
      number <= tracks.length
        ? tracks.slice(0, number)
        : [...tracks, ...Array.from({ length: number - tracks.length }, (_, n) => `Track ${tracks.length + n + 1}`)],
    );
  return (
    <div className="track-fields">
      <Field label="Number">
        {(id) => (
          <InputNumber id={id} min={0} max={256} value={tracks.length} onChange={(n) => n !== null && setNumber(n)} />
        )}
      </Field>
      <Field label="Tracks">{(id) => <NamesInput id={id} value={tracks} onChange={onChange} />}</Field>
    </div>
  );
}

interface PreviewProps {
  view: SetUpView | null;
  layout: Layout;
  onLayout: (layout: Layout) => void;
}

/** The tree as it would stand on disk, named in place, and the session's name among its neighbours. */
function Preview({ view, layout, onLayout }: PreviewProps) {
  const name = view?.plan ? view.name : null;
  return (
    <section className="preview" aria-label="What will be made">
      <code className="path">{name ? view?.fullPath : "The full path shows here once the session has a name."}</code>
      <ol className="neighbours" aria-label="The name among its neighbours">
        {view?.before.map((before) => (
          <li key={before}>{before}</li>
        ))}
        <li className="new-one">
          <strong>{name ?? "the new session"}</strong>
          <LayoutTree layout={layout} document={name ? `${name}.otio` : "its document"} onChange={onLayout} />
        </li>
        {view?.after.map((after) => (
          <li key={after}>{after}</li>
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
