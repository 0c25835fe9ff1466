import { Button, Input } from "antd";
import type { Layout } from "../api/types";
import css from "./set-up.module.css";

interface Props {
  layout: Layout;
  /** Name of the document that stands at the top. */
  document: string;
  onChange: (layout: Layout) => void;
}

type Role = Exclude<keyof Layout, "others">;

const roles: [Role, string][] = [
  ["audio", "takes and samples"],
  ["bounces", "finished mixes and prints"],
  ["olderDocuments", "documents from earlier days"],
  ["waveformCache", "waveform cache (hidden)"],
];

/** The folders of a session as they will stand on disk, named in place. A slash makes a folder in a folder. */
export function LayoutTree({ layout, document, onChange }: Props) {
  const others = layout.others;
  return (
    <ul className={css.tree} aria-label="Folders of the session">
      {roles.map(([role, purpose]) => (
        <li key={role}>
          <Input
            variant="filled"
            size="small"
            aria-label={`Folder for ${purpose}`}
            value={layout[role]}
            maxLength={120}
            onChange={(e) => onChange({ ...layout, [role]: e.target.value })}
          />
          <small>{purpose}</small>
        </li>
      ))}
      {others.map((folder, at) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: the place in the list is all that tells one such folder from another while it is named
        <li key={at}>
          <Input
            variant="filled"
            size="small"
            aria-label={`Folder of your own ${at + 1}`}
            value={folder}
            maxLength={120}
            autoFocus={folder === ""}
            placeholder="lyrics, charts, references"
            onChange={(e) => onChange({ ...layout, others: others.with(at, e.target.value) })}
            onBlur={() => folder.trim() === "" && onChange({ ...layout, others: others.toSpliced(at, 1) })}
          />
          <small>what you add by hand</small>
          <Button
            size="small"
            type="text"
            aria-label={`Take the folder ${folder} out`}
            onClick={() => onChange({ ...layout, others: others.toSpliced(at, 1) })}
          >
            ×
          </Button>
        </li>
      ))}
      <li className={css.document}>
        <span>{document}</span>
        <small>the session document</small>
      </li>
      <li className={css.add}>
        <Button size="small" onClick={() => onChange({ ...layout, others: [...others, ""] })}>
          Add a folder
        </Button>
      </li>
    </ul>
  );
}
