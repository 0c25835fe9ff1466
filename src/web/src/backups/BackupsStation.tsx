import { Alert } from "antd";
import { answer, api } from "../api/client";
import type { Plan, Version } from "../api/types";
import { Sheets } from "../frame/Choices";
import { useDraft } from "../frame/kept";
import { Page } from "../frame/Page";
import { Remarks } from "../frame/Remarks";
import { PlanTray } from "../plans/PlanTray";
import type { StationProps } from "../plans/stationProps";
import { usePlanned } from "../plans/usePlanned";
import { BackUpNow } from "./BackUpNow";
import css from "./backups.module.css";
import { ChosenVersions } from "./ChosenVersions";
import { FilesOfVersions } from "./FilesOfVersions";
import { HowSafe } from "./HowSafe";
import { Logbook } from "./Logbook";
import { PlacesAndRules } from "./PlacesAndRules";
import { useBackups } from "./queries";
import { isEnough, nothingBack, type Restoring } from "./restoring";

type Sheet = "logbook" | "safe" | "places";

/** Keeps every save, a second place and whole sessions in vaults, and finds the way back. */
export function BackupsStation({ inventory, run }: StationProps) {
  const { id, documentChanged, name } = inventory.session;
  const backups = useBackups(id);
  const [sheet, setSheet] = useDraft<Sheet>("backups sheet", "logbook");
  const [chosenKeys, setChosenKeys] = useDraft<readonly string[]>("backups chosen", []);
  const [restoring, setRestoring] = useDraft<Restoring>("backups restoring", nothingBack);
  const [thinned, setThinned] = useDraft<readonly string[]>("backups thinned", []);
  const data = backups.data;
  const chosen = chosenKeys.map((k) => data?.versions.find((v) => v.key === k)).filter((v): v is Version => !!v);
  const only = chosen.length === 1 ? chosen[0] : undefined;
  const wished =
    sheet === "places"
      ? thinned.length > 0
        ? { way: "thin" as const, thinned }
        : null
      : sheet === "logbook" && only && isEnough(restoring)
        ? { ...restoring, version: only.key }
        : null;
  const planned = usePlanned<NonNullable<typeof wished>, Plan>(
    `backups ${sheet}`,
    wished,
    [id, inventory.revision, data?.versions.length],
    (body, signal) => {
      const params = { path: { id } };
      if (body.way === "thin")
        return answer(
          api.POST("/api/sessions/{id}/backups/thinning/plan", { params, body: { keys: [...body.thinned] }, signal }),
        );
      const { version } = body;
      switch (body.way) {
        case "tracks":
          return answer(
            api.POST("/api/sessions/{id}/versions/tracks/plan", {
              params,
              body: { version, tracks: [...body.tracks] },
              signal,
            }),
          );
        case "files":
          return answer(
            api.POST("/api/sessions/{id}/versions/files/plan", {
              params,
              body: { version, paths: [...body.paths] },
              signal,
            }),
          );
        case "session":
          return answer(
            api.POST("/api/sessions/{id}/versions/session/plan", {
              params,
              body: { version, shelfId: body.place.shelfId ?? "", path: body.place.path, name: body.name },
              signal,
            }),
          );
        default:
          return answer(api.POST("/api/sessions/{id}/versions/document/plan", { params, body: { version }, signal }));
      }
    },
    run,
  );
  const choose = (next: readonly string[]) => {
    run.moveOn();
    setChosenKeys(next);
    setRestoring({ ...nothingBack, name });
  };
  return (
    <Page
      title="Back up"
      about={
        <>
          <Sheets<Sheet>
            label="What to look at"
            value={sheet}
            onChange={(next) => {
              run.moveOn();
              setSheet(next);
            }}
            options={[
              { value: "logbook", label: "Logbook" },
              { value: "safe", label: "How safe" },
              { value: "places", label: "Places and rules" },
            ]}
          />
          <p className={data?.status.worry ? "warning" : "quiet"} role="status">
            {data ? data.status.sentence : "Looking at what is kept."}
          </p>
        </>
      }
    >
      <Remarks remarks={inventory.remarks} />
      {backups.error && !data && (
        <p className="trouble" role="alert">
          {backups.error.message}
        </p>
      )}
      {data?.recording && (
        <Alert type="info" title={`Nothing is backed up while ${data.recording}. What is due follows when it stops.`} />
      )}
      {data && sheet === "logbook" && (
        <>
          <BackUpNow id={id} backups={data} />
          {data.versions.length === 0 ? (
            <p className="quiet">
              Nothing is kept yet. As soon as any program saves the document, that save and the one before stand here.
            </p>
          ) : (
            <>
              <FilesOfVersions id={id} onShow={(key) => choose([key])} />
              <div className={css.book}>
                <Logbook id={id} backups={data} chosen={chosen.map((v) => v.key)} onChoose={choose} />
                <ChosenVersions
                  id={id}
                  backups={data}
                  chosen={chosen}
                  documentChanged={documentChanged ?? null}
                  restoring={restoring}
                  onRestoring={(next) => {
                    run.moveOn();
                    setRestoring(next);
                  }}
                  onClose={() => choose([])}
                />
              </div>
            </>
          )}
        </>
      )}
      {data && sheet === "safe" && <HowSafe inventory={inventory} run={run} backups={data} />}
      {data && sheet === "places" && (
        <PlacesAndRules
          id={id}
          backups={data}
          thinned={thinned}
          onThinned={(next) => {
            run.moveOn();
            setThinned(next);
          }}
        />
      )}
      <PlanTray
        run={run}
        planned={planned}
        drafts={["backups restoring", "backups thinned"]}
        applyWord={sheet === "places" ? "Delete for good" : "Bring back"}
        idle={
          sheet === "places"
            ? "Nothing will be deleted."
            : sheet === "safe"
              ? "A full backup puts every file into one more place, read back and compared."
              : only
                ? "Choose what to bring back. It comes beside what is there, never over it."
                : "Choose a mark in the logbook to see what changed since, and to bring something back."
        }
      />
    </Page>
  );
}
