import { number } from "../words";
import css from "./loading-bay.module.css";

interface Props {
  label: string;
  /** What it says where nothing is narrowed. */
  any: string;
  values: readonly { value: string; sessions: number }[];
  /** How a value is called; as it is where that is not said. Two of one name are told apart by what they are. */
  nameOf?: (value: string) => string;
  value: string | null;
  onChange: (value: string | null) => void;
}

/** Narrows the sessions to one of several; where there is only one, there is nothing to narrow. */
export function Narrow({ label, any, values, nameOf = (v) => v, value, onChange }: Props) {
  if (values.length < 2) return null;
  const names = values.map((v) => nameOf(v.value));
  return (
    <select
      className={css.narrow}
      aria-label={label}
      value={value ?? ""}
      onChange={(e) => onChange(e.target.value === "" ? null : e.target.value)}
    >
      <option value="">{any}</option>
      {values.map((v, n) => (
        <option key={v.value} value={v.value}>
          {`${names.indexOf(names[n] ?? "") === names.lastIndexOf(names[n] ?? "") ? names[n] : v.value} ${number(v.sessions)}`}
        </option>
      ))}
    </select>
  );
}
