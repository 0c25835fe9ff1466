import { Checkbox, InputNumber, Select } from "antd";
import { useShelves } from "../api/queries";
import type { Settings } from "../api/types";
import { Field } from "../frame/Field";
import css from "./set-up.module.css";

const rates = [44100, 48000, 88200, 96000, 176400, 192000];
const depths = [16, 24, 32];
const signatures = ["4/4", "3/4", "6/8", "2/4", "5/4", "7/8", "12/8"];

interface Props {
  value: Settings;
  onChange: (settings: Settings) => void;
}

/** What a session is set up with; the same fields for a new one and for one that is there. */
export function SettingsFields({ value, onChange }: Props) {
  const shelves = useShelves().data ?? [];
  const mirror = shelves.find((s) => s.id === value.mirrorShelfId);
  const set = (part: Partial<Settings>) => onChange({ ...value, ...part });
  return (
    <div className={css.fieldRow}>
      <Field label="Sample rate">
        {(id) => (
          <Select
            id={id}
            value={value.sampleRate}
            onChange={(sampleRate) => set({ sampleRate })}
            options={rates.map((r) => ({ value: r, label: `${r / 1000} kHz`, title: `${r / 1000} kHz` }))}
          />
        )}
      </Field>
      <Field label="Bit depth">
        {(id) => (
          <Select
            id={id}
            value={value.bitDepth}
            onChange={(bitDepth) => set({ bitDepth })}
            options={depths.map((d) => ({ value: d, label: `${d} bit`, title: `${d} bit` }))}
          />
        )}
      </Field>
      <Field label="Tempo">
        {(id) => (
          <InputNumber
            id={id}
            min={10}
            max={400}
            value={value.tempo}
            onChange={(v) => v !== null && set({ tempo: v })}
          />
        )}
      </Field>
      <Field label="Time signature">
        {(id) => (
          <Select
            id={id}
            value={value.timeSignature}
            onChange={(timeSignature) => set({ timeSignature })}
            options={signatures.map((s) => ({ value: s, label: s, title: s }))}
          />
        )}
      </Field>
      <Field label="Expected length (minutes)">
        {(id) => (
          <InputNumber
            id={id}
            min={0.5}
            max={1440}
            value={value.expectedMinutes}
            onChange={(v) => v !== null && set({ expectedMinutes: v })}
          />
        )}
      </Field>
      <Field label="Back up every (minutes)">
        {(id) => (
          <InputNumber
            id={id}
            min={0}
            max={240}
            value={value.backupMinutes}
            onChange={(v) => v !== null && set({ backupMinutes: v })}
          />
        )}
      </Field>
      <Field label="Newest backups kept">
        {(id) => (
          <InputNumber
            id={id}
            min={1}
            max={1000}
            value={value.backupsKept}
            onChange={(v) => v !== null && set({ backupsKept: v })}
          />
        )}
      </Field>
      <Field label="Second copy of takes on">
        {(id) => (
          <Select
            id={id}
            allowClear
            placeholder="no second drive"
            value={mirror?.id}
            onChange={(shelf: string | undefined) => set({ mirrorShelfId: shelf ?? null })}
            options={shelves
              .filter((s) => s.kind !== "Outbox")
              .map((s) => ({ value: s.id, label: s.connected ? s.name : `${s.name}, away`, title: s.name }))}
          />
        )}
      </Field>
      <Checkbox
        className={`${css.wideField}`}
        checked={value.copyOnImport}
        onChange={(e) => set({ copyOnImport: e.target.checked })}
      >
        copy imported samples in
      </Checkbox>
    </div>
  );
}
