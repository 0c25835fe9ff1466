import { useQuery } from "@tanstack/react-query";
import { Button, Checkbox, Segmented } from "antd";
import { useState } from "react";
import { Link } from "react-router";
import { answer, api } from "../api/client";
import { useChooseDocument, usePresets, useShelves } from "../api/queries";
import type { Inventory, Settings, VersionNaming } from "../api/types";
import { OutsideNotice } from "../copy-in/OutsideNotice";
import { fileList } from "../files/columns";
import { FileList } from "../files/FileList";
import { ActiveFile } from "../files/FileTag";
import { useFiles } from "../files/useFiles";
import { Field } from "../frame/Field";
import { NamesInput } from "../frame/NamesInput";
import { History } from "../plans/History";
import { PlanTray } from "../plans/PlanTray";
import type { StationProps } from "../session/SessionPage";
import { Weighbridge } from "../weighbridge/Weighbridge";
import { count, day, size, when } from "../words";
import { SettingsFields } from "./SettingsFields";
import "./set-up.css";

type Sheet = "files" | "settings" | "versions" | "history";

/** What the session is, what is in its folder, and what was done in it. */
export function SetUpStation({ inventory, run }: StationProps) {
  const { session } = inventory;
  const [sheet, setSheet] = useState<Sheet>("files");
  const [settings, setSettings] = useState<Settings | null>(null);
  const [newTracks, setNewTracks] = useState<string[]>([]);
  const chooseDocument = useChooseDocument(session.id);
  const studio = usePresets().data?.[0];
  const [version, setVersion] = useState<{ naming: VersionNaming; archiveOlder: boolean } | null>(null);
  const open = (next: Sheet) => {
    run.moveOn();
    setSettings(null);
    setNewTracks([]);
    setVersion(null);
    setSheet(next);
  };
  const path = { path: { id: session.id } };
  const present = settings ?? inventory.settings;
  const changes = present && (settings !== null || newTracks.length > 0) ? { settings: present, newTracks } : null;
  const plan = useQuery({
    queryKey: ["plan", "set-up", session.id, settings, newTracks, version, session.documentChanged],
    enabled: (changes !== null || version !== null) && run.job === null,
    gcTime: 0,
    staleTime: 60_000,
    queryFn: () => {
      if (version) return answer(api.POST("/api/sessions/{id}/version/plan", { params: path, body: version }));
      if (changes) return answer(api.POST("/api/sessions/{id}/settings/plan", { params: path, body: changes }));
      throw new Error("There is nothing to plan.");
    },
  });
  return (
    <main className="station">
      <div className="station-head">
        <h1>Set up</h1>
        <code className="path">{session.folder}</code>
      </div>
      {inventory.remarks.map((remark) => (
        <p className="warning" key={remark}>
          {remark}
        </p>
      ))}
      <OutsideNotice inventory={inventory} />
      {inventory.sharedBy.length > 1 && <SharedFolder inventory={inventory} />}
      <div className="sheet-bar">
        <Segmented<Sheet>
          aria-label="What to look at"
          value={sheet}
          onChange={open}
          options={[
            { value: "files", label: "Files" },
            { value: "settings", label: "Settings" },
            { value: "versions", label: "Versions" },
            { value: "history", label: "History" },
          ]}
        />
        <span className="quiet">
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
          <section className="sheet" aria-label="Settings">
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
          <section className="sheet" aria-label="Settings">
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
        <section className="sheet" aria-label="Versions">
          <ul className="documents">
            {inventory.documents.map((document) => (
              <li key={document.path} className={document.current ? "current" : ""}>
                <span className="path">{document.path}</span>
                <span>{document.problem ?? (document.current ? "current" : "older")}</span>
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
                ) : (
                  <span />
                )}
              </li>
            ))}
          </ul>
          <div className="version-tools">
            <Button onClick={() => setVersion({ naming: "Today", archiveOlder: version?.archiveOlder ?? true })}>
              Start today's document
            </Button>
            <Button onClick={() => setVersion({ naming: "NextNumber", archiveOlder: version?.archiveOlder ?? true })}>
              Start the next number
            </Button>
            <Checkbox
              checked={version?.archiveOlder ?? true}
              onChange={(e) => setVersion({ naming: version?.naming ?? "Today", archiveOlder: e.target.checked })}
            >
              older documents go to the folder for them
            </Checkbox>
          </div>
        </section>
      )}
      {sheet === "history" && <History sessionId={session.id} run={run} />}
      <PlanTray
        run={run}
        plan={changes || version ? (plan.data ?? null) : null}
        planning={plan.isFetching}
        error={plan.error?.message ?? null}
        offer={
          version && plan.data?.warnings.length ? (
            <Link to={`/sessions/${session.id}/copy-in`}>Copy in first</Link>
          ) : null
        }
        applyWord={version ? "Start the version" : "Change the settings"}
        idle={
          inventory.otherFiles > 0
            ? `Nothing is planned. Beside the media: ${count(inventory.otherFiles, "other file")}, ${size(inventory.otherBytes)}.`
            : "Nothing is planned."
        }
      />
    </main>
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
    <>
      <Weighbridge weights={inventory.session.weights} chosen={rows.segment} onChoose={rows.setSegment} />
      <div className="with-tag">
        <FileList
          rows={rows}
          active={rows.active}
          onActive={rows.setActive}
          empty="No media files yet. Recordings go into the session's audio folder."
        />
        <ActiveFile rows={rows} />
      </div>
    </>
  );
}
