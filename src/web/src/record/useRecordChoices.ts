import { useState } from "react";

/** What the recorder is to do, remembered for each session. */
export interface RecordChoices {
  armed: readonly string[];
  /** Seconds after which it stops by itself. */
  seconds: number;
  fromSeconds: number;
  speed: number;
  set: (part: Partial<Omit<RecordChoices, "set">>) => void;
}

const standard = { armed: [] as readonly string[], seconds: 240, fromSeconds: 0, speed: 1 };

export function useRecordChoices(sessionId: string): RecordChoices {
  const key = `neat-crate-record-${sessionId}`;
  const [choices, setChoices] = useState<typeof standard>(() => ({ ...standard, ...read(key) }));
  return {
    ...choices,
    set: (part) => {
      const next = { ...choices, ...part };
      setChoices(next);
      localStorage.setItem(key, JSON.stringify(next));
    },
  };
}

function read(key: string): Partial<typeof standard> {
  try {
    return JSON.parse(localStorage.getItem(key) ?? "{}") as Partial<typeof standard>;
  } catch {
    // Something else stands under the key; the standard choices will do.
    return {};
  }
}
