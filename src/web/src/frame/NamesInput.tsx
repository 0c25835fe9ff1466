import { Select } from "antd";

interface Props {
  id: string;
  value: readonly string[];
  onChange: (names: string[]) => void;
}

/** A list of names, typed one after the other. */
export function NamesInput({ id, value, onChange }: Props) {
  return (
    <Select
      id={id}
      mode="tags"
      open={false}
      suffixIcon={null}
      value={[...value]}
      onChange={onChange}
      placeholder="type a name, Enter, the next"
      tokenSeparators={[","]}
    />
  );
}
