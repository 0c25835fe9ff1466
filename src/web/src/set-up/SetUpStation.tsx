import { Button, Checkbox } from "antd";
import { Link } from "react-router";
import { answer, api } from "../api/client";
import { usePresets, useShelves } from "../api/queries";
import type { Inventory, Settings, VersionNaming } from "../api/types";
import { OutsideNotice } from "../copy-in/OutsideNotice";
import { fileList } from "../files/columns";
import { FilesWithTag } from "../files/FilesWithTag";
import { useFiles } from "../files/useFiles";
import { Sheets } from "../frame/Choices";
import { Field } from "../frame/Field";
import { useDraft } from "../frame/kept";
import { NamesInput } from "../frame/NamesInput";
import { Page } from "../frame/Page";
import { Remarks } from "../frame/Remarks";
import { History } from "../plans/History";
import { PlanTray } from "../plans/PlanTray";
import type { StationProps } from "../plans/stationProps";
import { usePlanned } from "../plans/usePlanned";
import { PathText } from "../shelves/PathText";
import { count, day, size, when } from "../words";
import { NoDocument } from "./NoDocument";
import { useChooseDocument } from "./queries";
import { SettingsFields } from "./SettingsFields";
import css from "./set-up.module.css";

type Sheet = "files" | "settings" | "versions" | "history";

/** What the session is, what is in its folder, and what was done in it. */
export function SetUpStation({ inventory, run }: StationProps) {
  const { session } = inventory;
  const [sheet, setSheet] = useDraft<Sheet>("set-up sheet", "files");
  const [settings, setSettings] = useDraft<Settings | null>("set-up settings", null);
  const [newTracks, setNewTracks] = useDraft<string[]>("set-up tracks", []);
  const [version, setVersion] = useDraft<{ naming: VersionNaming; archiveOlder: boolean } | null>(
    "set-up version",
    null,
  );
  const chooseDocument = useChooseDocument(session.id);
  const studio = usePresets().data?.[0];
  const open = (next: Sheet) => {
    run.moveOn();
    setSheet(next);
  };
  const path = { path: { id: session.id } };
  const present = settings ?? inventory.settings;
  const changes = present && (settings !== null || newTracks.length > 0) ? { settings: present, newTracks } : null;
  // Of what is begun on two sheets, the one in sight is planned.
  const isVersion = sheet === "versions" && version !== null;
  const isSettings = sheet === "settings" && changes !== null;
  const planned = usePlanned(
    `set-up ${sheet}`,
    isVersion ? { version } : isSettings ? { changes } : null,
    [session.id, session.documentChanged],
    (choice, signal) =>
      "version" in choice && choice.version
        ? answer(api.POST("/api/sessions/{id}/version/plan", { params: path, body: choice.version, signal }))
        : answer(
            api.POST("/api/sessions/{id}/settings/plan", {
              params: path,
              body: (choice as { changes: NonNullable<typeof changes> }).changes,
              signal,
            }),
          ),
    run,
  );
  const discard = () => {
    run.moveOn();
    if (isVersion) setVersion(null);
    else {
      setSettings(null);
      setNewTracks([]);
    }
  };
  return (
    <Page title="Set up" about={<PathText path={session.folder} />}>
      <Remarks remarks={inventory.remarks} />
      <OutsideNotice inventory={inventory} />
      {inventory.sharedBy.length > 1 && <SharedFolder inventory={inventory} />}
      <div className={css.sheetBar}>
        <Sheets<Sheet>
          label="What to look at"
          value={sheet}
          onChange={open}
          options={[
            { value: "files", label: "Files" },
            { value: "settings", label: "Settings" },
            { value: "versions", label: "Versions" },
            { value: "history", label: "History" },
          ]}
        />
        <span className={`${css.currentDocument} quiet`}>
          {session.document ? (
            <>
              current document <strong>{session.document}</strong>
              {session.documentChanged && `, saved ${when(session.documentChanged)}`}
            </>
          ) : (
            "no document"
          )}
        </span>
      </div>
      {sheet === "files" && <Files inventory={inventory} run={run} />}
      {sheet === "settings" &&
        (inventory.settings ? (
          <section className={css.sheet} aria-label="Settings">
            <SettingsFields
              value={settings ?? inventory.settings}
              onChange={(next) => {
                run.moveOn();
                setSettings(next);
              }}
            />
            <Field label="New tracks">
              {(id) => (
                <NamesInput
                  id={id}
                  value={newTracks}
                  onChange={(tracks) => {
                    run.moveOn();
                    setNewTracks(tracks);
                  }}
                />
              )}
            </Field>
            <p className="quiet">
              {`Tracks: ${inventory.trackNames.join(", ") || "none yet"}. These settings are this session's own; no other session changes with them.`}
            </p>
          </section>
        ) : (
          <section className={css.sheet} aria-label="Settings">
            <p className="quiet">
              Another program wrote this document, and it carries no settings of ours. The plan below gives it some; all
              else in it stays.
            </p>
            {studio &&
              (settings ? (
                <SettingsFields value={settings} onChange={setSettings} />
              ) : (
                <div>
                  <Button onClick={() => setSettings(studio.settings)}>{`Start from “${studio.name}”`}</Button>
                </div>
              ))}
          </section>
        ))}
      {sheet === "versions" && (
        <section className={css.sheet} aria-label="Versions">
          <ul className={css.documents}>
            {inventory.documents.map((document) => (
              <li key={document.path} className={document.current ? css.current : ""}>
                <span className="path">{document.path}</span>
                <span title={document.problem ?? undefined}>
                  {document.isNaming
                    ? `${document.current ? "current, " : ""}of another program`
                    : (document.problem ?? (document.current ? "current" : "older"))}
                </span>
                <span className="mono quiet">{day(document.dated)}</span>
                <span className="mono quiet">{size(document.bytes)}</span>
                {!document.current && document.problem === null && !document.path.includes("/") ? (
                  <Button
                    size="small"
                    loading={chooseDocument.isPending}
                    onClick={() => chooseDocument.mutate(document.path)}
                  >
                    Make this the current version
                  </Button>
                ) : document.isNaming ? (
                  <NoDocument path={document.path} />
                ) : (
                  <span />
                )}
              </li>
            ))}
          </ul>
          <div className={css.versionTools}>
            <Button onClick={() => setVersion({ naming: "Today", archiveOlder: version?.archiveOlder ?? true })}>
              Start today's document
            </Button>
            <Button onClick={() => setVersion({ naming: "NextNumber", archiveOlder: version?.archiveOlder ?? true })}>
              Start a numbered version
            </Button>
            <Checkbox
              checked={version?.archiveOlder ?? true}
              onChange={(e) => setVersion({ naming: version?.naming ?? "Today", archiveOlder: e.target.checked })}
            >
              Move older versions to “Older documents”
            </Checkbox>
          </div>
        </section>
      )}
      {sheet === "history" && <History sessionId={session.id} run={run} />}
      <PlanTray
        run={run}
        planned={planned}
        drafts={isVersion ? ["set-up version"] : ["set-up settings", "set-up tracks"]}
        offer={
          <>
            {isVersion && planned.view?.warnings.length ? (
              <Link to={`/sessions/${session.id}/copy-in`}>Copy in first</Link>
            ) : null}
            {(isVersion || isSettings) && run.undoPlan === null && <Button onClick={discard}>Discard</Button>}
          </>
        }
        applyWord={isVersion ? "Start version" : "Change settings"}
        idle={
          inventory.otherFiles > 0
            ? `Nothing is planned. Beside the media: ${count(inventory.otherFiles, "other file")}, ${size(inventory.otherBytes)}.`
            : "Nothing is planned."
        }
      />
    </Page>
  );
}

/** Several sessions in one folder: said here, put right where folders are looked at. */
function SharedFolder({ inventory }: { inventory: Inventory }) {
  const { folder } = inventory.session;
  const shelf = useShelves().data?.find((s) => folder.startsWith(`${s.root}/`));
  return (
    <p className="warning">
      {`${inventory.sharedBy.length} sessions share this folder: ${inventory.sharedBy.join(", ")}. Cleaning one would damage the others. `}
      {shelf && (
        <Link to={`/adopt?${new URLSearchParams({ shelf: shelf.id, path: folder.slice(shelf.root.length + 1) })}`}>
          Give each its own folder
        </Link>
      )}
    </p>
  );
}

function Files({ inventory }: StationProps) {
  const rows = useFiles({ kind: fileList });
  return (
    <FilesWithTag
      rows={rows}
      weights={inventory.session.weights}
      empty="No media files yet. Recordings go into the session's audio folder."
    />
  );
}
