import { Checkbox, Input, Select } from "antd";
import { isOver, useOfJobs } from "../api/queries";
import type { Backups } from "../api/types";
import { Act } from "../frame/Act";
import { useDraft, useRemembered } from "../frame/kept";
import { useTell } from "../frame/Tell";
import { size } from "../words";
import { BackupGoes } from "./BackupGoes";
import css from "./backups.module.css";
import { useBackupWork } from "./queries";
import { savedAt } from "./words";

/** Keeps the document as it is, or all of the session, with a word on why. */
export function BackUpNow({ id, backups }: { id: string; backups: Backups }) {
  const { keep, full } = useBackupWork(id);
  const tell = useTell();
  const [note, setNote] = useDraft("backups note", "");
  const [wished, setVault] = useRemembered<string | null>("backups vault", null);
  const [byContent, setByContent] = useDraft("backups by content", false);
  const there = backups.vaults.filter((v) => v.connected);
  const vault = there.find((v) => v.id === wished) ?? there[0];
  const isHeld = backups.recording !== null;
  // A second press would make a second backup of the same.
  const isRunning =
    useOfJobs((jobs) =>
      jobs.some((j) => j.work === "Backup" && j.sessionId === id && j.shelfId === vault?.id && !isOver(j)),
    ) ?? false;
  const failed = (e: Error) => tell.error(e.message);
  return (
    <div className={css.now}>
      <Input
        aria-label="Note"
        placeholder="Note, as: before the string edits"
        maxLength={1000}
        value={note}
        onChange={(e) => setNote(e.target.value)}
      />
      <Act
        disabled={isHeld}
        loading={keep.isPending}
        onClick={() =>
          keep.mutate(note, {
            onError: failed,
            onSuccess: (version) => {
              setNote("");
              tell.success(`Kept as of ${savedAt(version)}.`);
            },
          })
        }
      >
        Keep this save
      </Act>
      <span className={css.fullNow}>
        <Act
          type="primary"
          disabled={isHeld || !vault || isRunning}
          loading={full.isPending}
          onClick={() =>
            vault &&
            full.mutate({ vaultId: vault.id, note, byContent }, { onError: failed, onSuccess: () => setNote("") })
          }
        >
          Full backup now
        </Act>
        {there.length > 1 ? (
          <Select
            aria-label="Vault"
            value={vault?.id ?? null}
            onChange={setVault}
            options={there.map((v) => ({ value: v.id, label: `into ${v.name}` }))}
          />
        ) : (
          <span className="quiet">
            {vault
              ? `into ${vault.name}${vault.freeBytes ? `, ${size(vault.freeBytes)} free` : ""}`
              : backups.vaults.length > 0
                ? "every vault is away"
                : "no shelf is a vault yet: make one at Shelves"}
          </span>
        )}
      </span>
      <Checkbox
        checked={byContent}
        onChange={(e) => setByContent(e.target.checked)}
        title="Mostly only what changed is read, by size, time and number. This reads everything."
      >
        Check every byte (slower)
      </Checkbox>
      <BackupGoes id={id} />
    </div>
  );
}
