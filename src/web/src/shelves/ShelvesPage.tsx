import { Alert, App, Button, Form, Input, Popconfirm, Select } from "antd";
import { useState } from "react";
import {
  useAddShelf,
  useChangeShelf,
  useForgetShelf,
  useScanShelf,
  useShelfNeeds,
  useShelves,
  useSimulateDrive,
} from "../api/queries";
import type { Shelf, ShelfKind, ShelfNeed } from "../api/types";
import { count, size } from "../words";
import "./shelves.css";

const kindWord: Record<ShelfKind, string> = {
  SessionDrive: "session drive",
  OwnLibrary: "own library",
  StockContent: "stock content",
  Removable: "removable drive",
  Vault: "vault",
  Outbox: "outbox",
};

export function ShelvesPage() {
  const shelves = useShelves();
  const needs = useShelfNeeds();
  return (
    <main className="page">
      <div className="page-head">
        <div>
          <h1>Shelves</h1>
          <p className="quiet">The places that Neat Crate knows: drives, libraries, the vault, the outbox.</p>
        </div>
      </div>
      {shelves.error && <Alert type="error" title={shelves.error.message} />}
      <ul className="shelves">
        {shelves.data?.map((shelf) => (
          <ShelfRow key={shelf.id} shelf={shelf} need={needs.data?.find((n) => n.shelfId === shelf.id)} />
        ))}
      </ul>
      {shelves.data?.length === 0 && (
        <p className="empty">No shelf yet. Add the drive or folder where your sessions live.</p>
      )}
      <AddShelf />
    </main>
  );
}

/** What depends on a shelf, in words. */
function needText(need: ShelfNeed | undefined): string {
  if (!need) return "";
  const sessions = need.sessions === 1 ? "1 session needs" : `${need.sessions} sessions need`;
  return `${sessions} ${count(need.files, "file")} from it`;
}

function ShelfRow({ shelf, need }: { shelf: Shelf; need: ShelfNeed | undefined }) {
  const change = useChangeShelf();
  const simulate = useSimulateDrive();
  const [name, setName] = useState<string | null>(null);
  const rename = () => {
    if (name?.trim() && name.trim() !== shelf.name)
      change.mutate({ id: shelf.id, name: name.trim(), kind: shelf.kind });
    setName(null);
  };
  const forget = useForgetShelf();
  const scan = useScanShelf();
  const { message } = App.useApp();
  const used = shelf.totalBytes && shelf.freeBytes !== null ? 1 - (shelf.freeBytes ?? 0) / shelf.totalBytes : 0;
  return (
    <li className={`shelf ${shelf.connected ? "" : "is-away"}`}>
      <div>
        {name === null ? (
          <h2>{shelf.name}</h2>
        ) : (
          <Input
            autoFocus
            aria-label="Name of the shelf"
            maxLength={80}
            value={name}
            onChange={(e) => setName(e.target.value)}
            onPressEnter={rename}
            onBlur={rename}
            onKeyDown={(e) => e.key === "Escape" && setName(null)}
          />
        )}
        <span className="quiet">{kindWord[shelf.kind]}</span>
      </div>
      <div>
        <code className="path">{shelf.root}</code>
        <p className={shelf.connected ? "quiet" : "word-away"}>{needText(need)}</p>
      </div>
      <div className="room">
        {shelf.connected ? (
          <>
            <span className="gauge" aria-hidden="true">
              <span style={{ width: `${Math.round(100 * used)}%` }} />
            </span>
            <span className="mono">{size(shelf.freeBytes ?? 0)} free</span>
          </>
        ) : (
          <span className="word-away">away</span>
        )}
      </div>
      <span className="mono quiet">{shelf.sessions > 0 ? count(shelf.sessions, "session") : ""}</span>
      {shelf.isSimulated ? (
        <Button
          size="small"
          loading={simulate.isPending}
          title="A drive of the demo, simulated"
          onClick={() =>
            simulate.mutate({ id: shelf.id, plug: !shelf.connected }, { onError: (e) => message.error(e.message) })
          }
        >
          {shelf.connected ? "Unplug" : "Plug in"}
        </Button>
      ) : (
        <span />
      )}
      <Button size="small" type="text" onClick={() => setName(shelf.name)}>
        Rename
      </Button>
      <Button
        size="small"
        disabled={!shelf.connected}
        loading={scan.isPending}
        title="Looks for sessions whose folder was moved or renamed"
        onClick={() =>
          scan.mutate(shelf.id, {
            onError: (e) => message.error(e.message),
            onSuccess: ({ found }) =>
              found.length === 0
                ? message.info(`Nothing has moved on “${shelf.name}”.`)
                : message.success(found.join(" ")),
          })
        }
      >
        Scan
      </Button>
      <Popconfirm
        title={`Forget the shelf “${shelf.name}”?`}
        description="No file on it is touched. Sessions that point at it will show its files as outside every shelf."
        okText="Forget it"
        cancelText="Keep it"
        onConfirm={() => forget.mutate(shelf.id, { onError: (e) => message.error(e.message) })}
      >
        <Button size="small" type="text">
          Forget
        </Button>
      </Popconfirm>
    </li>
  );
}

function AddShelf() {
  const [form] = Form.useForm<{ name: string; kind: ShelfKind; path: string }>();
  const add = useAddShelf();
  return (
    <section className="add-shelf" aria-label="Add a shelf">
      <h2>Add a shelf</h2>
      <Form
        form={form}
        layout="inline"
        initialValues={{ kind: "SessionDrive" }}
        onFinish={(values) => add.mutate(values, { onSuccess: () => form.resetFields() })}
      >
        <Form.Item name="name" label="Name" rules={[{ required: true, message: "Give it a name." }]}>
          <Input maxLength={80} />
        </Form.Item>
        <Form.Item name="kind" label="Kind">
          <Select
            style={{ width: 160 }}
            options={Object.entries(kindWord).map(([value, label]) => ({ value, label, title: label }))}
          />
        </Form.Item>
        <Form.Item name="path" label="Folder" rules={[{ required: true, message: "Give its whole path." }]}>
          <Input className="mono" placeholder="whole path, from the first slash" style={{ width: 340 }} />
        </Form.Item>
        <Button htmlType="submit" loading={add.isPending}>
          Add
        </Button>
      </Form>
      {add.error && <Alert type="error" title={add.error.message} />}
    </section>
  );
}
