import { Alert, Button, Radio } from "antd";
import { useEffect, useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { answer, api } from "../api/client";
import type { AdoptLook, FoundDocument } from "../api/types";
import { Page } from "../frame/Page";
import { PageTitle } from "../jobs/PageTitle";
import { PlanTray } from "../plans/PlanTray";
import { usePlanned } from "../plans/usePlanned";
import { moveOn, usePlanRun } from "../plans/usePlanRun";
import setUpCss from "../set-up/set-up.module.css";
import { type FolderChoice, FolderPicker } from "../shelves/FolderPicker";
import { PathText } from "../shelves/PathText";
import { count, size, when } from "../words";
import css from "./adopt.module.css";
import { useAdopt, useAdoptLook } from "./queries";

type Task = { kind: "separate" } | { kind: "bring-home"; document: string; home: string };

/** A folder that exists: what it holds is seen before it is adopted, and what is in disorder there can be put right. */
export function AdoptPage() {
  const [params, setParams] = useSearchParams();
  const place: FolderChoice = { shelfId: params.get("shelf") ?? undefined, path: params.get("path") ?? "" };
  const run = usePlanRun("adopt a folder");
  const navigate = useNavigate();
  const look = useAdoptLook(place.shelfId, place.path);
  const [task, setTask] = useState<Task | null>(null);
  const choose = (next: FolderChoice) => {
    run.moveOn();
    setTask(null);
    setParams({ ...(next.shelfId ? { shelf: next.shelfId } : {}), path: next.path }, { replace: true });
  };
  const folder = { shelfId: place.shelfId ?? "", path: place.path };
  const planned = usePlanned(
    "adopt",
    task && { ...folder, task },
    look.dataUpdatedAt,
    ({ task, ...body }, signal) =>
      task.kind === "bring-home"
        ? answer(
            api.POST("/api/adopt/bring-home/plan", {
              body: { ...body, document: task.document, home: task.home },
              signal,
            }),
          )
        : answer(api.POST("/api/adopt/separate/plan", { body, signal })),
    run,
  );
  useEffect(() => () => moveOn("adopt a folder"), []);
  const home = run.job?.state === "Done" && run.job.kind === "BringHome" ? run.job.sessionId : null;
  return (
    <Page
      title="Adopt a folder"
      about={
        <p className="quiet">
          Go to the folder of a session that you have. Adopting only looks; nothing in it is changed.
        </p>
      }
    >
      <PageTitle>Adopt a folder</PageTitle>
      <div className={setUpCss.newColumns}>
        <div className="fields">
          <FolderPicker label="Session folder" value={place} onChange={choose} />
          {place.shelfId && (
            <p>
              <Link to={`/shelves/${place.shelfId}/sessions`}>Find all sessions on this shelf</Link>
            </p>
          )}
        </div>
        <div className="fields">
          {place.path === "" ? (
            <section className={`${setUpCss.preview} quiet`}>
              <p>What the folder holds shows here: its documents, the newest first, and its media.</p>
            </section>
          ) : look.error ? (
            <Alert type="error" title={look.error.message} />
          ) : look.data ? (
            <Findings
              look={look.data}
              folder={folder}
              onGo={(path) => choose({ shelfId: place.shelfId, path })}
              isNext={task === null}
              onTask={(next) => {
                run.moveOn();
                setTask(next);
              }}
            />
          ) : (
            <p className="quiet">Looking at the folder.</p>
          )}
        </div>
      </div>
      <PlanTray
        run={{
          ...run,
          clear: () => {
            run.clear();
            setTask(null);
          },
        }}
        planned={planned}
        applyWord={task?.kind === "bring-home" ? "Bring it home" : "Give each its own folder"}
        idle="Nothing is planned. Adopting a folder needs no plan, since it changes nothing."
        after={
          home && (
            <Button type="primary" onClick={() => navigate(`/sessions/${home}`)}>
              Open the session
            </Button>
          )
        }
      />
    </Page>
  );
}

interface FindingsProps {
  look: AdoptLook;
  folder: { shelfId: string; path: string };
  /** True when adopting is the one thing to do next. */
  isNext: boolean;
  onTask: (task: Task) => void;
  onGo: (path: string) => void;
}

function Findings({ look, folder, isNext, onTask, onGo }: FindingsProps) {
  const navigate = useNavigate();
  const adopt = useAdopt();
  const top = look.documents.filter((d) => d.atTop);
  const [picked, setPicked] = useState<string | null>(null);
  const current = picked ?? top.find((d) => d.problem === null)?.path ?? null;
  return (
    <section className={`${setUpCss.preview} ${css.findings}`} aria-label="What the folder holds">
      <PathText path={look.folder} />
      <p className={css.found}>
        {look.documents.length === 0
          ? "No session document that can be read. It can be adopted all the same, to be watched, backed up and bundled whole; nothing in it is ever called unused."
          : look.status}
      </p>
      <p className="mono quiet">
        {`${count(look.mediaFiles, "media file")}, ${size(look.mediaBytes)}; ${count(look.documents.length, "document")}`}
      </p>
      {look.remarks.map((remark) => (
        <p className="warning" key={remark}>
          {remark}
        </p>
      ))}
      {look.sessionFolders.length > 0 && (
        <div className={css.finding}>
          <p>
            <strong>
              {look.sessionFolders.length === 1
                ? "The folder of a session stands in here."
                : `The folders of ${look.sessionFolders.length} sessions stand in here.`}
            </strong>
            {" Each is adopted by itself:"}
          </p>
          <ul className={css.sessionFolders}>
            {look.sessionFolders.map((path) => (
              <li key={path}>
                <Button size="small" onClick={() => onGo(path)}>
                  {path.slice(path.lastIndexOf("/") + 1)}
                </Button>
              </li>
            ))}
          </ul>
        </div>
      )}
      {look.sessionFolders.length === 0 && look.sessions.length > 1 && (
        <div className={css.finding}>
          <p>
            <strong>{`${look.sessions.length} sessions share this folder`}</strong>
            {`: ${look.sessions.join(", ")}. Cleaning one would damage the others.`}
          </p>
          <Button onClick={() => onTask({ kind: "separate" })}>Plan a folder for each</Button>
        </div>
      )}
      {look.documents
        .filter((d) => d.strayed)
        .map((d) => (
          <Stray key={d.path} document={d} onTask={onTask} />
        ))}
      {look.documents.length > 0 && (
        <Radio.Group
          className={`${css.foundDocuments}`}
          aria-label="The document that the session is worked in"
          value={current}
          onChange={(e) => setPicked(e.target.value as string)}
        >
          {look.documents.map((d) => (
            <DocumentRow key={d.path} document={d} shared={look.sessions.length > 1} />
          ))}
        </Radio.Group>
      )}
      <div className={css.findingActions}>
        {look.sessionFolders.length > 0 ? null : look.knownAs ? (
          <Button type="primary" onClick={() => navigate(`/sessions/${look.knownAs}`)}>
            Open the session
          </Button>
        ) : (
          <Button
            type={isNext ? "primary" : "default"}
            loading={adopt.isPending}
            onClick={() =>
              adopt.mutate(
                { ...folder, document: picked === top[0]?.path ? null : picked },
                { onSuccess: (session) => navigate(`/sessions/${session.id}`) },
              )
            }
          >
            Adopt this folder
          </Button>
        )}
      </div>
      {adopt.error && <Alert type="error" title={adopt.error.message} />}
    </section>
  );
}

function DocumentRow({ document, shared }: { document: FoundDocument; shared: boolean }) {
  const here =
    document.problem ??
    (document.media === 0
      ? "points at no media"
      : document.here === document.media
        ? `all ${count(document.media, "file")} here`
        : `${document.here} of ${count(document.media, "file")} here`);
  return (
    <div className={css.foundDocument}>
      {document.atTop && document.problem === null ? (
        <Radio value={document.path}>
          <span className="path">{document.path}</span>
        </Radio>
      ) : (
        <span className={`path ${css.below}`}>{document.path}</span>
      )}
      <span>{shared && document.session ? `${document.session}: ${here}` : here}</span>
      <span className="mono quiet">{when(document.changed)}</span>
    </div>
  );
}

function Stray({ document, onTask }: { document: FoundDocument; onTask: (task: Task) => void }) {
  const [home] = document.homes;
  return (
    <div className={css.finding}>
      <p>
        <strong>{`“${document.path}” strayed from its folder.`}</strong>
        {home
          ? ` Nothing that it points at is here, and everything is in ${home}.`
          : " Nothing that it points at is here, and no folder on the connected shelves has all of it."}
        {document.homes.length > 1 && ` ${document.homes.length - 1} other folders have it too.`}
      </p>
      {document.homes.map((at, n) => (
        <Button key={at} onClick={() => onTask({ kind: "bring-home", document: document.path, home: at })}>
          {n === 0 ? "Plan to bring it home" : `To ${at.slice(at.lastIndexOf("/") + 1)} instead`}
        </Button>
      ))}
    </div>
  );
}
