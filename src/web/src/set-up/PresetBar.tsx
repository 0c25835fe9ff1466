import { Button, Input, Popconfirm, Select } from "antd";
import { useState } from "react";
import { usePresetChanges } from "../api/queries";
import type { Preset } from "../api/types";
import { Field } from "../frame/Field";
import { useTell } from "../frame/Tell";
import { asPreset, withTyped } from "./presets";
import css from "./set-up.module.css";

interface Props {
  presets: readonly Preset[];
  current: Preset;
  onChoose: (preset: Preset) => void;
}

/** Chooses a preset, keeps the present choices as one, and says which one new sessions start from. */
export function PresetBar({ presets, current, onChoose }: Props) {
  const { save, remove, makeDefault } = usePresetChanges();
  const message = useTell();
  const [name, setName] = useState("");
  const onError = (e: Error) => message.error(e.message);
  const chosen = presets.find((p) => p.name === current.name);
  const wished = name.trim();
  const replaced = presets.find((p) => p.name === (wished || current.name));
  const keep = () => {
    const preset = { ...asPreset(current), name: wished || current.name, isDefault: replaced?.isDefault === true };
    save.mutate(preset, {
      onError,
      onSuccess: () => {
        setName("");
        onChoose({ ...current, name: preset.name, isDefault: preset.isDefault });
        message.success(`The preset “${preset.name}” is kept.`);
      },
    });
  };
  return (
    <div className={css.presetBar}>
      <Field label="Preset">
        {(id) => (
          <Select
            id={id}
            value={current.name}
            onChange={(value) => {
              const preset = presets.find((p) => p.name === value);
              if (preset) onChoose(withTyped(preset, current));
            }}
            options={presets.map((p) => ({
              value: p.name,
              title: p.name,
              label: p.isDefault ? `${p.name} (studio default)` : p.name,
            }))}
          />
        )}
      </Field>
      <Field label="Save these choices as">
        {(id) => (
          <Input
            id={id}
            maxLength={60}
            value={name}
            placeholder={current.name}
            onChange={(e) => setName(e.target.value)}
          />
        )}
      </Field>
      {replaced ? (
        <Popconfirm
          title={`Replace the preset “${replaced.name}”?`}
          description={replaced.isDefault ? "New sessions start from it." : "What it held is gone then."}
          okText="Replace it"
          cancelText="Cancel"
          onConfirm={keep}
        >
          <Button loading={save.isPending}>Save</Button>
        </Popconfirm>
      ) : (
        <Button loading={save.isPending} onClick={keep}>
          Save
        </Button>
      )}
      <Button disabled={!chosen || chosen.isDefault} onClick={() => makeDefault.mutate(current.name, { onError })}>
        Make default
      </Button>
      <Popconfirm
        title={`Remove the preset “${current.name}”?`}
        description="Sessions that were made with it stay as they are."
        okText="Remove it"
        cancelText="Keep it"
        onConfirm={() =>
          remove.mutate(current.name, {
            onError,
            onSuccess: (left) => left[0] && onChoose(withTyped(left[0], current)),
          })
        }
      >
        <Button type="text" disabled={!chosen || presets.length < 2}>
          Remove
        </Button>
      </Popconfirm>
    </div>
  );
}
