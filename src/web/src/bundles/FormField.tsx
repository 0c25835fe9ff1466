import { Select } from "antd";
import type { BundleForm } from "../api/types";
import { Choices } from "../frame/Choices";
import { size } from "../words";
import css from "./bundles.module.css";

export interface FormChoice {
  form: BundleForm;
  partBytes: number;
}

/** What mails and transfers let through, and a little less than a file on a FAT32 drive may have. */
export const partSizes = [25_000_000, 100_000_000, 1_000_000_000, 2_000_000_000, 4_000_000_000] as const;

/** In which form it is handed over. */
export function FormField({ value, onChange }: { value: FormChoice; onChange: (value: FormChoice) => void }) {
  return (
    <div className={css.form}>
      <Choices
        label="Handed over as"
        value={value.form}
        options={[
          { value: "OneFile", label: "One file" },
          { value: "Parts", label: "Parts" },
          { value: "Folder", label: "A folder" },
        ]}
        onChange={(form) => onChange({ ...value, form })}
      />
      {value.form === "Parts" && (
        <Select
          aria-label="Bytes of a part"
          value={value.partBytes}
          options={partSizes.map((bytes) => ({ value: bytes, label: `of ${size(bytes)}` }))}
          onChange={(partBytes) => onChange({ ...value, partBytes })}
        />
      )}
    </div>
  );
}
