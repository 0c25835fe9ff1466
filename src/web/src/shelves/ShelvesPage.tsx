import { Alert, Button, Form, Input, Modal, Progress, Select } from "antd";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import {
  isScanOver,
  useAddShelf,
  useChangeShelf,
  useForgetShelf,
  useSayWhetherSame,
  useScanning,
  useScans,
  useShelfNeeds,
  useShelves,
  useSimulateDrive,
  useUnreadable,
} from "../api/queries";
import type { Scan, Shelf, ShelfKind, ShelfNeed } from "../api/types";
import { Act } from "../frame/Act";
import { useCopyPath } from "../frame/copyPath";
import { Page } from "../frame/Page";
import { RowMenu } from "../frame/RowMenu";
import { useTell } from "../frame/Tell";
import { PageTitle } from "../jobs/PageTitle";
import { ago, count, dayOf, duration, number, size } from "../words";
import { MachineFolder } from "./MachineFolder";
import { PathText } from "./PathText";
import { SameDrive } from "./SameDrive";
import css from "./shelves.module.css";

export const kindWord: Record<ShelfKind, string> = {
  SessionDrive: "session drive",
  OwnLibrary: "own library",
  StockContent: "stock content",
  Removable: "removable drive",
  Vault: "vault",
  Outbox: "outbox",
};

/** Where sessions are looked for first: on libraries each preset with its sound looks like one. */
const holdsSessions = ({ kind, sessions }: Shelf) => sessions > 0 || kind === "SessionDrive" || kind === "Removable";

export function ShelvesPage() {
  const shelves = useShelves();
  const needs = useShelfNeeds();
  const scans = useScans();
  return (
    <Page
      title="Shelves"
      about={<p className="quiet">The places that Neat Crate knows: drives, libraries, the vault, the outbox.</p>}
    >
      <PageTitle>Shelves</PageTitle>
      {shelves.error && <Alert type="error" title={shelves.error.message} />}
      <ul className={css.shelves}>
        {shelves.data?.map((shelf) => (
          <ShelfRow
            key={shelf.id}
            shelf={shelf}
            shelves={shelves.data}
            need={needs.data?.find((n) => n.shelfId === shelf.id)}
            scan={scans.data?.find((s) => s.shelfId === shelf.id)}
          />
        ))}
      </ul>
      {shelves.data?.length === 0 && (
        <p className="empty">No shelf yet. Add the drive or folder where your sessions live.</p>
      )}
      <AddShelf />
    </Page>
  );
}

/** So many sessions are named at once; more unfold. */
const mostNamed = 3;

/** Which sessions depend on a shelf, each one step away. */
function Needs({ need, away }: { need: ShelfNeed; away: boolean }) {
  const [first] = need.sessions;
  if (!first) return null;
  const tone = away ? `${css.wordAway} ${css.needs}` : `quiet ${css.needs}`;
  const link = (s: typeof first) => (
    <Link to={`/sessions/${s.sessionId}/copy-in`}>{dayOf(s.name)?.rest ?? s.name}</Link>
  );
  if (need.sessions.length === 1)
    return (
      <p className={tone}>
        {link(first)} needs {count(need.files, "file")} from it
      </p>
    );
  const sum = `${number(need.sessions.length)} sessions need ${count(need.files, "file")} from it`;
  const names = (
    <ul>
      {need.sessions.map((s) => (
        <li key={s.sessionId}>
          {link(s)} {number(s.files)}
        </li>
      ))}
    </ul>
  );
  return need.sessions.length > mostNamed ? (
    <details className={tone}>
      <summary>{sum}</summary>
      {names}
    </details>
  ) : (
    <div className={tone}>
      {sum}: {names}
    </div>
  );
}

interface RowProps {
  shelf: Shelf;
  shelves: readonly Shelf[];
  need: ShelfNeed | undefined;
  scan: Scan | undefined;
}

function ShelfRow({ shelf, shelves, need, scan }: RowProps) {
  const simulate = useSimulateDrive();
  const [changing, setChanging] = useState(false);
  const forget = useForgetShelf();
  const scanning = useScanning();
  const running = scan && !isScanOver(scan) ? scan : null;
  const message = useTell();
  const copy = useCopyPath();
  const navigate = useNavigate();
  const sessionsOn = `/shelves/${shelf.id}/sessions`;
  const plug = () =>
    simulate.mutate({ id: shelf.id, plug: !shelf.connected }, { onError: (e) => message.error(e.message) });
  const used = shelf.totalBytes && shelf.freeBytes !== null ? 1 - (shelf.freeBytes ?? 0) / shelf.totalBytes : 0;
  return (
    <li className={`${css.shelf} ${shelf.connected ? "" : css.isAway}`}>
      <div>
        <h2>
          <Link
            className={css.toShelf}
            to={`/shelves/${shelf.id}`}
            title="What would be lost, and what would go silent, if it died"
          >
            {shelf.name}
          </Link>
        </h2>
        <span className="quiet">{kindWord[shelf.kind]}</span>
      </div>
      <div>
        <PathText path={shelf.root} isShelf />
        <Known shelf={shelf} scan={scan} />
        {need && <Needs need={need} away={!shelf.connected} />}
        <SameDrive shelf={shelf} shelves={shelves} />
        {shelf.mayBe && <MayBe shelf={shelf} other={shelf.mayBe} />}
      </div>
      <div>
        {shelf.connected ? (
          <>
            <span className={css.gauge} aria-hidden="true">
              <span style={{ width: `${Math.round(100 * used)}%` }} />
            </span>
            <span className="mono">{size(shelf.freeBytes ?? 0)} free</span>
          </>
        ) : (
          <span className={css.wordAway}>away</span>
        )}
      </div>
      <span>
        {holdsSessions(shelf) && (
          <Link className={css.sessions} to={sessionsOn} title="All that look like sessions on it, known or not">
            {shelf.sessions > 0 ? count(shelf.sessions, "session") : "Find sessions"}
          </Link>
        )}
      </span>
      {shelf.isSimulated && !shelf.connected ? (
        <Act size="small" loading={simulate.isPending} title="A drive of the demo, simulated" onClick={plug}>
          Plug in
        </Act>
      ) : running ? (
        <Act
          size="small"
          onClick={() => scanning.cancel.mutate(shelf.id, { onError: (e) => message.error(e.message) })}
        >
          Stop
        </Act>
      ) : (
        <Act
          size="small"
          disabled={!shelf.connected}
          loading={scanning.start.isPending}
          title="Looks at what is new or changed on it, and for sessions whose folder was moved or renamed"
          onClick={() => scanning.start.mutate(shelf.id, { onError: (e) => message.error(e.message) })}
        >
          Scan
        </Act>
      )}
      <RowMenu
        of={shelf.name}
        row={`.${css.shelf}`}
        actions={[
          { label: "Change", act: () => setChanging(true) },
          { label: "Copy path", act: () => void copy(shelf.root) },
          ...(shelf.kind === "Vault" ? [] : [{ label: "Find sessions", act: () => void navigate(sessionsOn) }]),
          ...(shelf.isSimulated && shelf.connected ? [{ label: "Unplug", act: plug }] : []),
          {
            label: "Forget",
            act: () => forget.mutate(shelf.id, { onError: (e) => message.error(e.message) }),
            sure: {
              question: `Forget the shelf “${shelf.name}”?`,
              means:
                "No file on it is touched; the catalogue forgets what it knew of it. Sessions that point at it will show its files as outside every shelf.",
              yes: "Forget it",
            },
          },
        ]}
      />
      <ChangeShelf shelf={shelf} open={changing} onClose={() => setChanging(false)} />
    </li>
  );
}

/** A shelf that is away, and whose files stand here at the same places: the same drive, or a copy of it. */
function MayBe({ shelf, other }: { shelf: Shelf; other: NonNullable<Shelf["mayBe"]> }) {
  const say = useSayWhetherSame();
  const message = useTell();
  const answer = (isSame: boolean) =>
    say.mutate({ id: shelf.id, isSame }, { onError: (e) => message.error(e.message) });
  return (
    <div className={css.mayBe}>
      <p>
        {`${number(other.atSamePlaces)} of ${count(other.known, "file")} of “${other.name}”, which is away, stand here at the same places. Is it the same drive?`}
      </p>
      <Act
        size="small"
        title={`“${other.name}” stands here from now on, with all that is known of it and the sessions on it; no file is touched`}
        loading={say.isPending}
        onClick={() => answer(true)}
      >
        The same drive
      </Act>
      <Act size="small" type="text" disabled={say.isPending} onClick={() => answer(false)}>
        Another one
      </Act>
    </div>
  );
}

interface ShelfForm {
  name: string;
  kind: ShelfKind;
  path: string;
}

function ShelfFields({ focused = false }: { focused?: boolean }) {
  return (
    <>
      <Form.Item name="name" label="Name" rules={[{ required: true, whitespace: true, message: "Give it a name." }]}>
        <Input autoFocus={focused} maxLength={80} />
      </Form.Item>
      <Form.Item name="kind" label="Kind">
        <Select
          style={{ width: 160 }}
          options={Object.entries(kindWord).map(([value, label]) => ({ value, label, title: label }))}
        />
      </Form.Item>
      <Form.Item name="path" label="Folder" rules={[{ required: true, message: "Give its whole path." }]}>
        <MachineFolder />
      </Form.Item>
    </>
  );
}

/** Another name, kind or place of a shelf. */
function ChangeShelf({ shelf, open, onClose }: { shelf: Shelf; open: boolean; onClose: () => void }) {
  const [form] = Form.useForm<ShelfForm>();
  const change = useChangeShelf();
  return (
    <Modal
      title={`Change “${shelf.name}”`}
      open={open}
      okText="Save"
      cancelText="Cancel"
      confirmLoading={change.isPending}
      onOk={form.submit}
      onCancel={onClose}
      destroyOnHidden
    >
      <Form
        form={form}
        layout="vertical"
        preserve={false}
        initialValues={{ name: shelf.name, kind: shelf.kind, path: shelf.root }}
        onFinish={({ name, kind, path }) =>
          change.mutate({ id: shelf.id, name: name.trim(), kind, path: path.trim() }, { onSuccess: onClose })
        }
      >
        <ShelfFields focused />
        {/* The dialog's own button stands outside of the form; without one inside, Enter would send nothing. */}
        <button type="submit" hidden />
      </Form>
      <p className="quiet">
        Where a drive is found elsewhere than before, give its new folder: what is known of it, and the sessions on it,
        go along. No file is touched.
      </p>
      {change.error && <Alert type="error" title={change.error.message} />}
    </Modal>
  );
}

/** What the catalogue knows of a shelf, and how the scan that runs goes on. */
function Known({ shelf, scan }: { shelf: Shelf; scan: Scan | undefined }) {
  const [open, setOpen] = useState(false);
  const unreadable = useUnreadable(shelf.id, open && shelf.unreadable > 0);
  if (scan && !isScanOver(scan)) return <ScanGoes scan={scan} />;
  return (
    <>
      <p className={`quiet ${css.known}`}>
        {scan?.state === "Failed" ? <span className={css.wordAway}>{scan.message}</span> : null}
        {shelf.files === null
          ? shelf.connected
            ? "not scanned yet"
            : "never seen: connect it to have it scanned"
          : `${count(shelf.files ?? 0, "file")}, ${size(shelf.bytes ?? 0)}, scanned ${ago(shelf.scanned ?? "")}`}
        {scan?.state === "Cancelled" && " · the last scan was stopped"}
        {shelf.unreadable > 0 && (
          <Button size="small" type="text" aria-expanded={open} onClick={() => setOpen(!open)}>
            {`${number(shelf.unreadable)} cannot be read`}
          </Button>
        )}
      </p>
      {open && shelf.unreadable > 0 && (
        <ul className={css.unreadable} aria-label={`What cannot be read on ${shelf.name}`}>
          {unreadable.data?.map((u) => (
            <li key={u.path}>
              <code className="path">{u.path}</code> <span className="quiet">{u.reason}</span>
            </li>
          ))}
        </ul>
      )}
    </>
  );
}

function ScanGoes({ scan }: { scan: Scan }) {
  const left = scan.secondsLeft === null ? "" : ` · ${duration(scan.secondsLeft ?? 0)} left`;
  const words = {
    Waiting: "waits for another scan to end",
    Held: scan.message ?? "waits while something records",
    Looking: `looking: ${count(scan.files, "file")} in ${count(scan.folders, "folder")}${left}`,
    Reading: `reading ${number(scan.read)} of ${number(scan.toRead)} new or changed${left}`,
    Done: "",
    Failed: "",
    Cancelled: "",
  }[scan.state];
  return (
    <div className={css.scan} role="status">
      <Progress
        size="small"
        showInfo={false}
        percent={scan.toRead > 0 ? Math.floor((100 * scan.read) / scan.toRead) : 0}
      />
      <span className="mono quiet">{words}</span>
    </div>
  );
}

function AddShelf() {
  const [form] = Form.useForm<ShelfForm>();
  const add = useAddShelf();
  return (
    <section className={css.addShelf} aria-label="Add a shelf">
      <h2>Add a shelf</h2>
      <Form
        form={form}
        layout="inline"
        initialValues={{ kind: "SessionDrive" }}
        onFinish={(values) => add.mutate(values, { onSuccess: () => form.resetFields() })}
      >
        <ShelfFields />
        <Act htmlType="submit" loading={add.isPending}>
          Add
        </Act>
      </Form>
      {add.error && <Alert type="error" title={add.error.message} />}
    </section>
  );
}
