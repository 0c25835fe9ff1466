import { useRemembered } from "../frame/kept";

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
  const [choices, setChoices] = useRemembered(`record ${sessionId}`, standard);
  return { ...choices, set: (part) => setChoices({ ...choices, ...part }) };
}
