import { number } from "../words";
import css from "./loading-bay.module.css";

interface Props {
  label: string;
  /** What it says where nothing is narrowed. */
  any: string;
  values: readonly { value: string; sessions: number }[];
  value: string | null;
  onChange: (value: string | null) => void;
}

/** Narrows the sessions to one of several; where there is only one, there is nothing to narrow. */
export function Narrow({ label, any, values, value, onChange }: Props) {
  if (values.length < 2) return null;
  return (
    <select
      className={css.narrow}
      aria-label={label}
      value={value ?? ""}
      onChange={(e) => onChange(e.target.value === "" ? null : e.target.value)}
    >
      <option value="">{any}</option>
      {values.map((v) => (
        <option key={v.value} value={v.value}>
          {`${v.value} ${number(v.sessions)}`}
        </option>
      ))}
    </select>
  );
}
