import { Input } from "antd";
import { useState } from "react";
import { parseTimeOfDay } from "../words";

interface Props {
  id: string;
  disabled?: boolean;
  /** As 23:30; null where there is none. */
  value: string | null;
  onChange: (value: string | null) => void;
}

/** A time of day with 24 hours, as everything else has it; the browser's own field follows the machine's language instead. */
export function TimeOfDayInput({ id, disabled = false, value, onChange }: Props) {
  const [text, setText] = useState<string | null>(null);
  const isWrong = text !== null && text.trim() !== "" && parseTimeOfDay(text) === null;
  const done = () => {
    if (text === null || isWrong) return;
    const next = parseTimeOfDay(text);
    if (next !== value) onChange(next);
    setText(null);
  };
  return (
    <Input
      id={id}
      disabled={disabled}
      className="mono"
      placeholder="as 23:30"
      maxLength={5}
      status={isWrong ? "error" : ""}
      aria-invalid={isWrong}
      value={text ?? value ?? ""}
      onChange={(e) => setText(e.target.value)}
      onPressEnter={done}
      onBlur={() => {
        done();
        setText(null);
      }}
    />
  );
}
