import { Alert, Button, InputNumber } from "antd";
import { useEffect, useState } from "react";
import { useNavigate } from "react-router";
import { answer, api } from "../api/client";
import { usePresets, useShelves } from "../api/queries";
import type { Budget, Layout, NamePart, Preset, SetUpView, Shelf } from "../api/types";
import { Field } from "../frame/Field";
import { useDraft } from "../frame/kept";
import { NamesInput } from "../frame/NamesInput";
import { Page } from "../frame/Page";
import { SessionProvider } from "../frame/sessionContext";
import { PageTitle } from "../jobs/PageTitle";
import { PlanTray } from "../plans/PlanTray";
import { usePlanned } from "../plans/usePlanned";
import { moveOn, usePlanRun } from "../plans/usePlanRun";
import { type FolderChoice, FolderPicker } from "../shelves/FolderPicker";
import { PathText } from "../shelves/PathText";
import { useUsualPlace } from "../shelves/usualPlace";
import { duration, size } from "../words";
import { KindsCopiedIn } from "./KindsCopiedIn";
import { LayoutTree } from "./LayoutTree";
import { NameParts } from "./NameParts";
import { PresetBar } from "./PresetBar";
import { SettingsFields } from "./SettingsFields";
import css from "./set-up.module.css";

/** A new session: everything is seen before anything is made. */
export function NewSession() {
  const presets = usePresets();
  const shelves = useShelves();
  const first = presets.data?.[0];
  // What stands in the form stays there, whatever becomes of a question asked behind it.
  const trouble = presets.error ?? shelves.error;
  return (
    <SessionProvider value="new session">
      <PageTitle>New session</PageTitle>
      {first && shelves.data ? (
        <Form presets={presets.data ?? []} first={first} shelves={shelves.data} />
      ) : trouble ? (
        <Page>
          <Alert
            type="error"
            title={trouble.message}
            action={<Button onClick={() => [presets, shelves].map((q) => q.refetch())}>Try again</Button>}
          />
        </Page>
      ) : (
        <Page about="One moment." />
      )}
    </SessionProvider>
  );
}

function Form({ presets, first, shelves }: { presets: readonly Preset[]; first: Preset; shelves: readonly Shelf[] }) {
  const navigate = useNavigate();
  const run = usePlanRun("new session");
  const [preset, setPreset] = useDraft("preset", first);
  const [chosenPlace, setPlace] = useDraft<FolderChoice>("place", { shelfId: undefined, path: "" });
  const drive = shelves.find((s) => s.kind === "SessionDrive" && s.connected);
  const [usual] = useUsualPlace();
  // What was usual may be away today.
  const isUsualThere = shelves.some((s) => s.id === usual.shelfId && s.connected);
  const place = chosenPlace.shelfId ? chosenPlace : isUsualThere ? usual : { shelfId: drive?.id, path: "" };
  const set = (part: Partial<Preset>) => {
    run.moveOn();
    setPreset({ ...preset, ...part });
  };
  const { nameParts, separator, settings, layout, tracks, leftOutKinds = [] } = preset;
  const planned = usePlanned(
    "new session",
    place.shelfId
      ? {
          nameParts,
          separator,
          settings,
          // A folder that was added and not named yet is none.
          layout: { ...layout, others: layout.others.filter((f) => f.trim() !== "") },
          tracks,
          leftOutKinds,
          shelfId: place.shelfId,
          parentPath: place.path,
        }
      : null,
    null,
    (choice, signal) => answer(api.POST("/api/set-up/plan", { body: choice, signal })),
    run,
  );
  const view = planned.view;
  useEffect(() => () => moveOn("new session"), []);
  const made = run.job?.state === "Done" ? run.job.sessionId : null;
  return (
    <Page
      title="New session"
      about={
        <p className="quiet">A folder of its own for every song. Nothing is made before you apply the plan below.</p>
      }
    >
      <PresetBar presets={presets} current={preset} onChoose={setPreset} />
      <div className={css.newColumns}>
        <div className="fields">
          <NameParts
            parts={preset.nameParts}
            separator={preset.separator}
            onChange={(nameParts, separator) => set({ nameParts, separator })}
          />
          {view && <Checks view={view} onFix={(nameParts) => set({ nameParts })} />}
          <TrackNames tracks={preset.tracks} onChange={(tracks) => set({ tracks })} />
          <FolderPicker label="Parent folder" value={place} onChange={setPlace} />
          <SettingsFields value={preset.settings} onChange={(settings) => set({ settings })} />
          <KindsCopiedIn out={leftOutKinds} onChange={(leftOutKinds) => set({ leftOutKinds })} />
        </div>
        <div className="fields">
          <Preview view={view} layout={preset.layout} onLayout={(layout) => set({ layout })} />
          {view && <BudgetFigures budget={view.budget} tracks={preset.tracks.length} />}
        </div>
      </div>
      <PlanTray
        run={run}
        planned={{ ...planned, view: view?.plan ?? null }}
        drafts={["preset", "place"]}
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
    </Page>
  );
}

/** What was found about the name, and one about which nothing would be found. */
function Checks({ view, onFix }: { view: SetUpView; onFix: (parts: NamePart[]) => void }) {
  const { checks, fix, fixParts } = view;
  if (checks.length === 0) return null;
  return (
    <div className={css.checks} role="status" aria-label="About the name">
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

/**
 * The number of tracks and their names: the number adds numbered ones, names are typed over. A number acts once it is whole
 * (Enter, or leaving the field), and names that it leaves out come back with a greater one.
 */
function TrackNames({ tracks, onChange }: { tracks: readonly string[]; onChange: (tracks: string[]) => void }) {
  const [typed, setTyped] = useState<number | null>(null);
  const [spare, setSpare] = useDraft<string[]>("spare track names", []);
  const act = () => {
    setTyped(null);
    if (typed === null || typed === tracks.length) return;
    const known = [...tracks, ...spare.slice(tracks.length)];
    setSpare(known);
    onChange(Array.from({ length: typed }, (_, n) => known[n] ?? `Track ${n + 1}`));
  };
  return (
    <div className={css.trackFields}>
      <Field label="Number of tracks">
        {(id) => (
          <InputNumber
            id={id}
            min={0}
            max={256}
            value={typed ?? tracks.length}
            onChange={setTyped}
            onBlur={act}
            onPressEnter={act}
          />
        )}
      </Field>
      <Field label="Tracks">
        {(id) => (
          <NamesInput
            id={id}
            value={tracks}
            onChange={(names) => {
              setSpare([]);
              onChange(names);
            }}
          />
        )}
      </Field>
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
    <section className={css.preview} aria-label="What will be made">
      {name && view?.fullPath ? (
        <PathText path={view.fullPath} />
      ) : (
        <span className="path">Where it will stand shows here once the session has a name.</span>
      )}
      <ol className={css.neighbours} aria-label="The name among its neighbours">
        {view?.before.map((before) => (
          <li key={before}>{before}</li>
        ))}
        <li className={css.newOne}>
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
    ["Size of one pass", tracks > 0 ? size(budget.expectedBytes) : "name the tracks to see what they weigh"],
    ["Data rate", tracks > 0 ? `${size(budget.bytesPerSecond * 60)} a minute` : null],
    ["Recording time left", budget.secondsLeft === null ? null : duration(budget.secondsLeft)],
    ["On the mirror's drive", budget.mirrorSecondsLeft === null ? null : duration(budget.mirrorSecondsLeft)],
    ["One take reaches 4 GiB", `after ${duration(budget.secondsToLimit)}; it goes on as RF64 in the same file`],
  ];
  return (
    <dl className={css.budget} aria-label="Weight and time">
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
