import { AutoComplete, Button, Checkbox, Popconfirm, Select } from "antd";
import { useState } from "react";
import type { Recipient, RecipientView } from "../api/types";
import { Choices } from "../frame/Choices";
import { Field } from "../frame/Field";
import { NamesInput } from "../frame/NamesInput";
import { useTell } from "../frame/Tell";
import { size } from "../words";
import css from "./bundles.module.css";
import { useRecipientChanges } from "./queries";

interface Props {
  recipients: readonly RecipientView[];
  name: string;
  onName: (name: string) => void;
  onChoose: (chosen: RecipientView) => void;
}

const unknown = (name: string): Recipient => ({
  name,
  work: "Mix",
  readsDocument: true,
  hasStockContent: false,
  system: "Any",
  limitBytes: null,
  has: [],
});

/** Most that reaches somebody in one file. The drive is one with FAT32, whose files have less than 4 GiB. */
const limits = [
  { value: 0, label: "no limit" },
  { value: 25_000_000, label: "25 MB, by mail" },
  { value: 2_000_000_000, label: "2 GB, by transfer" },
  { value: 4_294_967_295, label: "4.29 GB, on a FAT32 drive" },
];

const does: Record<Recipient["work"], string> = {
  Listen: "listens",
  Mix: "mixes",
  Edit: "goes on with it",
  Archive: "keeps it",
};

/** What is known of somebody, in one line. */
export const knownOf = (recipient: Recipient) =>
  [
    does[recipient.work],
    recipient.readsDocument ? "" : "cannot read the document",
    recipient.hasStockContent ? "has the stock content" : "",
    recipient.limitBytes ? `takes at most ${size(recipient.limitBytes)}` : "",
    recipient.has.length > 0 ? `has ${recipient.has.join(", ")}` : "",
  ]
    .filter(Boolean)
    .join(", ");

const same = (one: string, other: string) => one.trim().toLowerCase() === other.trim().toLowerCase();

/** Whom it is for: somebody who is known, or whoever is typed. Choosing one sets what goes along. */
export function RecipientField({ recipients, name, onName, onChoose }: Props) {
  const [isOpen, setOpen] = useState(false);
  const known = recipients.find((r) => same(r.recipient.name, name));
  return (
    <div className={css.recipient}>
      <Field label="For">
        {(id) => (
          <AutoComplete
            id={id}
            value={name}
            maxLength={200}
            placeholder="a name, or one of those you know"
            options={recipients.map((r) => ({ value: r.recipient.name }))}
            filterOption={(typed, option) =>
              recipients.some((r) => same(r.recipient.name, typed)) ||
              (option?.value.toLowerCase().includes(typed.trim().toLowerCase()) ?? false)
            }
            onChange={onName}
            onSelect={(value: string) => {
              const chosen = recipients.find((r) => r.recipient.name === value);
              if (chosen) onChoose(chosen);
            }}
          />
        )}
      </Field>
      {name.trim() !== "" && (
        <p className={css.known}>
          <span className="quiet">{known ? knownOf(known.recipient) : "Nothing is known of them yet."}</span>
          <Button size="small" type="text" aria-expanded={isOpen} onClick={() => setOpen(!isOpen)}>
            {isOpen ? "Fold" : known ? "Change" : "Say what they have"}
          </Button>
        </p>
      )}
      {isOpen && name.trim() !== "" && (
        <About
          key={known?.recipient.name ?? ""}
          first={{ ...(known?.recipient ?? unknown(name)), name: known?.recipient.name ?? name.trim() }}
          isKept={known?.isKept === true}
          onDone={(saved) => {
            setOpen(false);
            if (saved) onChoose(saved);
          }}
        />
      )}
    </div>
  );
}

function About({
  first,
  isKept,
  onDone,
}: {
  first: Recipient;
  isKept: boolean;
  onDone: (saved: RecipientView | undefined) => void;
}) {
  const [about, setAbout] = useState(first);
  const { save, remove } = useRecipientChanges();
  const message = useTell();
  const onError = (e: Error) => message.error(e.message);
  return (
    <div className={css.about}>
      <Choices
        label="What they do with it"
        value={about.work}
        options={[
          { value: "Listen", label: "Listens" },
          { value: "Mix", label: "Mixes" },
          { value: "Edit", label: "Goes on with it" },
          { value: "Archive", label: "Keeps it" },
        ]}
        onChange={(work) => setAbout({ ...about, work })}
      />
      <Checkbox checked={about.readsDocument} onChange={(e) => setAbout({ ...about, readsDocument: e.target.checked })}>
        Their program reads the document
      </Checkbox>
      <Checkbox
        checked={about.hasStockContent}
        onChange={(e) => setAbout({ ...about, hasStockContent: e.target.checked })}
      >
        Has the stock content
      </Checkbox>
      <Field label="Instruments and effects they have">
        {(id) => <NamesInput id={id} value={about.has} onChange={(has) => setAbout({ ...about, has })} />}
      </Field>
      <Field label="System">
        {(id) => (
          <Select
            id={id}
            value={about.system}
            onChange={(system) => setAbout({ ...about, system })}
            options={[
              { value: "Any", label: "not known" },
              { value: "Windows", label: "Windows" },
              { value: "MacOs", label: "macOS" },
              { value: "Linux", label: "Linux" },
            ]}
          />
        )}
      </Field>
      <Field label="Largest file that reaches them">
        {(id) => (
          <Select
            id={id}
            value={about.limitBytes ?? 0}
            onChange={(bytes) => setAbout({ ...about, limitBytes: bytes === 0 ? null : bytes })}
            options={limits}
          />
        )}
      </Field>
      <div className={css.aboutActs}>
        <Button
          loading={save.isPending}
          onClick={() =>
            save.mutate(about, {
              onError,
              onSuccess: (all) => onDone(all.find((r) => same(r.recipient.name, about.name))),
            })
          }
        >
          Keep what is known
        </Button>
        {isKept && (
          <Popconfirm
            title={`Forget what is known of “${about.name}”?`}
            description="Bundles that were made for them stay."
            okText="Forget it"
            cancelText="Keep it"
            onConfirm={() => remove.mutate(about.name, { onError, onSuccess: () => onDone(undefined) })}
          >
            <Button type="text">Forget</Button>
          </Popconfirm>
        )}
      </div>
    </div>
  );
}
