import { Button } from "antd";
import { type ReactNode, useState } from "react";
import { Link, useNavigate } from "react-router";
import { useAddShelf } from "../api/queries";
import type { SessionLabel, Shelf, ShelfKind } from "../api/types";
import { Act } from "../frame/Act";
import { Field } from "../frame/Field";
import { useRemembered } from "../frame/kept";
import { MachineFolder } from "../shelves/MachineFolder";
import { SameDrive } from "../shelves/SameDrive";
import { size } from "../words";
import css from "./loading-bay.module.css";

interface Props {
  sessions: readonly SessionLabel[];
  shelves: readonly Shelf[];
}

/** Nobody has made a session safe yet: from nothing to a session with a backup, one step after the other. */
export function FirstSteps({ sessions, shelves }: Props) {
  const navigate = useNavigate();
  const [isPutAway, setPutAway] = useRemembered("first steps put away", false);
  const drive = shelves.find((s) => s.kind === "SessionDrive");
  const vault = shelves.find((s) => s.kind === "Vault");
  const [first] = sessions;
  const isBackedUp = sessions.some((s) => s.backup?.lastFull);
  const done = [drive !== undefined, vault !== undefined, first !== undefined, isBackedUp];
  if (isPutAway || done.every(Boolean)) return null;
  const next = done.indexOf(false);
  return (
    <section className={css.steps} aria-label="First steps">
      <h2>{sessions.length === 0 ? "Four steps to a session that is safe" : "Not safe yet"}</h2>
      <ol>
        <Step at={1} next={next} title="Where do your sessions live?" done={drive && said(drive)}>
          <p className="quiet">A drive or a folder. Nothing in it is changed by saying so.</p>
          <AddPlace kind="SessionDrive" shelves={shelves} />
        </Step>
        <Step
          at={2}
          next={next}
          title="Where do backups go?"
          done={vault && said(vault)}
          after={vault && <SameDrive shelf={vault} shelves={shelves} />}
        >
          <p className="quiet">
            Best on another drive: where both are on one, its end takes both. An empty folder will do.
          </p>
          {drive && <AddPlace kind="Vault" shelves={shelves} />}
        </Step>
        <Step at={3} next={next} title="Your first session" done={first?.name}>
          {drive ? (
            <div className={css.stepDo}>
              <Button type={next === 2 ? "primary" : "default"} onClick={() => navigate("/adopt")}>
                Adopt a folder that you have
              </Button>
              <Button onClick={() => navigate("/new")}>New session</Button>
            </div>
          ) : (
            <p className="quiet">The folder of one that you have, or a new one.</p>
          )}
        </Step>
        <Step at={4} next={next} title="Its first full backup" done={isBackedUp ? "made" : undefined}>
          {first ? (
            <p>
              <Link to={`/sessions/${first.id}/backups`}>Go to its station Back up</Link>, and press “Full backup now”.
            </p>
          ) : (
            <p className="quiet">Every file is copied into the vault, read back and compared.</p>
          )}
        </Step>
      </ol>
      {sessions.length > 0 && (
        <Button size="small" type="text" onClick={() => setPutAway(true)}>
          Put these steps away
        </Button>
      )}
    </section>
  );
}

const said = (shelf: Shelf) =>
  `${shelf.name}${shelf.connected ? (shelf.freeBytes ? `, ${size(shelf.freeBytes)} free` : "") : ", away now"}`;

interface StepProps {
  at: number;
  /** Index of the step that comes next. */
  next: number;
  title: string;
  /** What came of it; nothing while it is not done. */
  done: string | undefined;
  /** What is to be known of it once it is done. */
  after?: ReactNode;
  children: ReactNode;
}

function Step({ at, next, title, done, after, children }: StepProps) {
  const state = done === undefined ? (next === at - 1 ? "next" : "later") : "done";
  return (
    <li data-state={state} aria-current={state === "next" ? "step" : undefined}>
      <span className={css.stepNumber} aria-hidden="true">
        {at}
      </span>
      <div>
        <h3>{title}</h3>
        {done === undefined ? (
          children
        ) : (
          <>
            <p>
              Done: <strong>{done}</strong>
            </p>
            {after}
          </>
        )}
      </div>
    </li>
  );
}

/** A shelf of one kind, known by its folder; named after it. */
function AddPlace({ kind, shelves }: { kind: ShelfKind; shelves: readonly Shelf[] }) {
  const add = useAddShelf();
  const [path, setPath] = useState("");
  const whole = path.trim().replace(/\/+$/, "");
  const folder = whole.split("/").at(-1) ?? "";
  const standard = kind === "Vault" ? "Vault" : "Session drive";
  const isTaken = (name: string) => shelves.some((s) => s.name.toLowerCase() === name.toLowerCase());
  const name = folder !== "" && !isTaken(folder) ? folder : standard;
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        add.mutate({ name, kind, path: whole === "" ? "/" : whole });
      }}
    >
      <Field label="Folder">{(id) => <MachineFolder id={id} value={path} onChange={setPath} />}</Field>
      <Act htmlType="submit" type="primary" disabled={path.trim() === ""} loading={add.isPending}>
        {kind === "Vault" ? "Backups go here" : "Sessions live here"}
      </Act>
      {add.error && (
        <p className="trouble" role="alert">
          {add.error.message}
        </p>
      )}
    </form>
  );
}
