import { InputNumber } from "antd";
import { useIsConnected } from "../api/connection";
import type { BackupChoice } from "../api/types";
import { ActBox } from "../frame/ActBox";
import { Field } from "../frame/Field";
import { TimeOfDayInput } from "../frame/TimeOfDayInput";
import css from "./backups.module.css";

interface Props {
  choice: BackupChoice;
  onChange: (next: Partial<BackupChoice>) => void;
}

/** Whether states of the document stand in the session itself. */
export function KeptInSession({ choice, onChange }: Props) {
  return (
    <ActBox checked={choice.keepsInSession} onChange={(e) => onChange({ keepsInSession: e.target.checked })}>
      Keep them in the session, in “Document backups”
    </ActBox>
  );
}

/** When full backups are made by themselves, and in how many places each file is wanted. */
export function FullBackupRules({ choice, onChange }: Props) {
  const isConnected = useIsConnected();
  return (
    <>
      <ActBox checked={choice.withOutside} onChange={(e) => onChange({ withOutside: e.target.checked })}>
        Take along what stands outside, so that a backup is complete by itself
      </ActBox>
      <ActBox checked={choice.whenPluggedIn} onChange={(e) => onChange({ whenPluggedIn: e.target.checked })}>
        Back up whenever a vault’s drive is plugged in
      </ActBox>
      <ActBox checked={choice.atRest} onChange={(e) => onChange({ atRest: e.target.checked })}>
        At the close of day, once nothing has changed for half an hour
      </ActBox>
      <div className={css.numbers}>
        <Field label="Daily at">
          {(fieldId) => (
            <TimeOfDayInput
              id={fieldId}
              disabled={!isConnected}
              value={choice.dailyAt ?? null}
              onChange={(dailyAt) => onChange({ dailyAt })}
            />
          )}
        </Field>
        <Field label="Wanted places for each file">
          {(fieldId) => (
            <InputNumber
              id={fieldId}
              min={1}
              max={9}
              disabled={!isConnected}
              value={choice.wanted}
              onChange={(wanted) => wanted !== null && onChange({ wanted })}
            />
          )}
        </Field>
      </div>
    </>
  );
}

const kept = [
  ["keepLast", "Last ones", 1],
  ["keepHours", "Hours", 0],
  ["keepDays", "Days", 0],
] as const;

/** How many of those that were kept stay when they are thinned out. */
export function ThinningRules({ choice, onChange }: Props) {
  const isConnected = useIsConnected();
  return (
    <>
      <p className="quiet">
        All of the last ones stay, then the newest of each hour, of each day, and of each week after that. What has a
        note stays, and what alone holds some media.
      </p>
      <div className={css.numbers}>
        {kept.map(([key, label, least]) => (
          <Field key={key} label={label}>
            {(fieldId) => (
              <InputNumber
                id={fieldId}
                min={least}
                max={10_000}
                disabled={!isConnected}
                value={choice[key]}
                onChange={(value) => value !== null && onChange({ [key]: value })}
              />
            )}
          </Field>
        ))}
      </div>
    </>
  );
}
