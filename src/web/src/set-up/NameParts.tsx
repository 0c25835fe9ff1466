import { Button, Dropdown, Input, Select } from "antd";
import { useState } from "react";
import type { NamePart, NamePartKind } from "../api/types";
import css from "./set-up.module.css";

const kindWord: Record<NamePartKind, string> = {
  Date: "date",
  Artist: "artist",
  Song: "song",
  WorkingTitle: "working title",
  Version: "version",
  FreeText: "free text",
};
const dateOrders = ["YYMMDD", "YYYY-MM-DD", "DDMMYY"];
const separators = [
  { value: " ", label: "space between" },
  { value: "_", label: "_ between" },
  { value: "-", label: "- between" },
];

interface Props {
  parts: readonly NamePart[];
  separator: string;
  onChange: (parts: NamePart[], separator: string) => void;
}

/** Two chips of one kind are told apart by which of them comes first. */
const keyOf = (parts: readonly NamePart[], at: number) =>
  `${parts[at]?.kind} ${parts.slice(0, at).filter((p) => p.kind === parts[at]?.kind).length}`;

/** The parts of a session's name as chips, put in order by dragging or by the arrows on them. */
export function NameParts({ parts, separator, onChange }: Props) {
  const [dragged, setDragged] = useState<number | null>(null);
  const replace = (at: number, part: NamePart) => onChange(parts.with(at, part), separator);
  const move = (from: number, to: number) => {
    const part = parts[from];
    if (part && to >= 0 && to < parts.length) onChange(parts.toSpliced(from, 1).toSpliced(to, 0, part), separator);
  };
  // The first part that wants typing gets the keyboard.
  const first = parts.findIndex((p) => p.kind !== "Date");
  return (
    <fieldset className={css.nameParts}>
      <legend>Name</legend>
      <ol>
        {parts.map((part, at) => (
          <li
            key={keyOf(parts, at)}
            draggable
            onDragStart={() => setDragged(at)}
            onDragOver={(e) => e.preventDefault()}
            onDrop={() => dragged !== null && move(dragged, at)}
          >
            <span className={css.partHead}>
              <button
                type="button"
                aria-label={`Move ${kindWord[part.kind]} left`}
                disabled={at === 0}
                onClick={() => move(at, at - 1)}
              >
                ‹
              </button>
              {kindWord[part.kind]}
              <button
                type="button"
                aria-label={`Move ${kindWord[part.kind]} right`}
                disabled={at === parts.length - 1}
                onClick={() => move(at, at + 1)}
              >
                ›
              </button>
              <button
                type="button"
                aria-label={`Take ${kindWord[part.kind]} out of the name`}
                onClick={() => onChange(parts.toSpliced(at, 1), separator)}
              >
                ×
              </button>
            </span>
            {part.kind === "Date" ? (
              <Select
                aria-label="Order of the date"
                value={part.text}
                onChange={(text) => replace(at, { ...part, text })}
                options={dateOrders.map((o) => ({ value: o, label: o, title: o }))}
              />
            ) : (
              <Input
                autoFocus={at === first}
                className={at === first ? css.nameField : ""}
                aria-label={kindWord[part.kind]}
                value={part.text}
                maxLength={200}
                onChange={(e) => replace(at, { ...part, text: e.target.value })}
              />
            )}
          </li>
        ))}
      </ol>
      <div className={css.partTools}>
        <Dropdown
          trigger={["click"]}
          menu={{
            items: Object.entries(kindWord).map(([key, label]) => ({ key, label })),
            onClick: ({ key }) =>
              onChange([...parts, { kind: key as NamePartKind, text: key === "Date" ? "YYMMDD" : "" }], separator),
          }}
        >
          <Button size="small">Add a part</Button>
        </Dropdown>
        <Select
          size="small"
          aria-label="What stands between the parts"
          value={separator}
          onChange={(s) => onChange([...parts], s)}
          options={separators}
        />
      </div>
    </fieldset>
  );
}
