import { Input, Modal } from "antd";
import { useState } from "react";
import { useNavigate } from "react-router";
import { useSessions } from "../api/queries";
import { useFocusBack } from "../frame/focus";
import { dayOf } from "../words";
import css from "./top-strip.module.css";

const places = [
  { id: "/", name: "Loading bay", note: "all sessions" },
  { id: "/new", name: "New session", note: "" },
  { id: "/adopt", name: "Adopt a folder", note: "" },
  { id: "/shelves", name: "Shelves", note: "" },
];

/** Most that are shown at once; a word more finds the rest. */
const mostShown = 12;

/** Finds a session or a page by a part of its name, and goes there. */
export function OpenDialog({ onClose }: { onClose: () => void }) {
  useFocusBack();
  const navigate = useNavigate();
  const sessions = useSessions().data ?? [];
  const [text, setText] = useState("");
  const [at, setAt] = useState(0);
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  const found = [
    ...sessions.map((s) => ({ id: `/sessions/${s.id}`, name: dayOf(s.name)?.rest ?? s.name, note: s.name })),
    ...places,
  ]
    .filter(({ name, note }) => words.every((w) => `${name} ${note}`.toLowerCase().includes(w)))
    .slice(0, mostShown);
  const go = (id: string | undefined) => {
    if (!id) return;
    onClose();
    navigate(id);
  };
  return (
    <Modal title="Open" open onCancel={onClose} footer={null} width={520}>
      <Input
        autoFocus
        aria-label="Name of a session"
        aria-describedby={found[at] ? `open-${at}` : undefined}
        placeholder="part of a name"
        value={text}
        onChange={(e) => {
          setText(e.target.value);
          setAt(0);
        }}
        onKeyDown={(e) => {
          if (e.key === "ArrowDown") setAt(Math.min(found.length - 1, at + 1));
          else if (e.key === "ArrowUp") setAt(Math.max(0, at - 1));
          else if (e.key === "Enter") go(found[at]?.id);
          else return;
          e.preventDefault();
        }}
      />
      <ul className={css.quickOpen} aria-label="What fits">
        {found.map(({ id, name, note }, n) => (
          <li key={id}>
            <button type="button" id={`open-${n}`} aria-current={n === at} onClick={() => go(id)}>
              {name} <span className="mono quiet">{note}</span>
            </button>
          </li>
        ))}
      </ul>
      {found.length === 0 && <p className="quiet">Nothing has “{text}” in its name.</p>}
    </Modal>
  );
}
