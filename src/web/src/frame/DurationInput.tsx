import { Input } from "antd";
import { useState } from "react";
import { duration, parseDuration } from "../words";

interface Props {
  id: string;
  value: number;
  /** The least number of seconds that makes sense. */
  least: number;
  onChange: (seconds: number) => void;
}

/** A length of time as m:ss. What cannot be read is marked, and gives way to the last value on leaving the field. */
export function DurationInput({ id, value, least, onChange }: Props) {
  const [text, setText] = useState<string | null>(null);
  const typed = text === null ? value : parseDuration(text);
  const isWrong = typed === null || typed < least;
  return (
    <Input
      id={id}
      className="mono"
      status={isWrong ? "error" : ""}
      aria-invalid={isWrong}
      value={text ?? duration(value)}
      onChange={(e) => {
        setText(e.target.value);
        const seconds = parseDuration(e.target.value);
        if (seconds !== null && seconds >= least) onChange(seconds);
      }}
      onBlur={() => setText(null)}
    />
  );
}
