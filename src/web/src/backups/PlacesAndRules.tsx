import { Checkbox, Popconfirm, Select } from "antd";
import { useIsConnected } from "../api/connection";
import { useShelves } from "../api/queries";
import type { BackupChoice, Backups, VaultInfo } from "../api/types";
import { Act } from "../frame/Act";
import { ActBox } from "../frame/ActBox";
import { Field } from "../frame/Field";
import { useTell } from "../frame/Tell";
import { count, number, size, when } from "../words";
import css from "./backups.module.css";
import { useBackupWork, useThinning } from "./queries";
import { FullBackupRules, KeptInSession, ThinningRules } from "./RuleFields";

interface Props {
  id: string;
  backups: Backups;
  /** Keys of the kept states that are to go. */
  thinned: readonly string[];
  onThinned: (keys: readonly string[]) => void;
}

/** Where things are kept, when full backups are made by themselves, and how many stay. */
export function PlacesAndRules({ id, backups, thinned, onThinned }: Props) {
  const { choose } = useBackupWork(id);
  const tell = useTell();
  const isConnected = useIsConnected();
  const shelves = useShelves();
  const { choice, vaults, status } = backups;
  const change = (next: Partial<BackupChoice>) =>
    choose.mutate({ ...choice, ...next }, { onError: (e) => tell.error(e.message) });
  return (
    <div className={css.places}>
      <section aria-label="Saves of the document">
        <h2>Saves of the document</h2>
        <KeptInSession choice={choice} onChange={change} />
        <Field label="Second place, on another drive">
          {(fieldId) => (
            <Select
              id={fieldId}
              disabled={!isConnected}
              value={choice.secondShelf ?? ""}
              onChange={(shelf) => change({ secondShelf: shelf || null })}
              options={[
                { value: "", label: "none" },
                ...(shelves.data ?? [])
                  .filter((s) => s.kind !== "StockContent")
                  .map((s) => ({ value: s.id, label: s.connected ? s.name : `${s.name} (away)` })),
              ]}
            />
          )}
        </Field>
        {status.second && (
          <p className={status.secondBehind > 0 ? "warning" : "quiet"}>
            {status.secondBehind > 0
              ? `${status.second} ${status.secondIsAway ? "is away and" : ""} lacks ${count(status.secondBehind, "kept save")}. It catches up when it is there.`
              : `${status.second} holds all of them.`}
          </p>
        )}
        <Thinning id={id} vault={null} going={thinned} onGoing={onThinned} />
      </section>
      <section aria-label="Full backups">
        <h2>Full backups</h2>
        <FullBackupRules choice={choice} onChange={change} />
        {vaults.length === 0 && (
          <p className="quiet">No shelf is a vault yet. Add one at Shelves, best on a drive of its own.</p>
        )}
        {vaults.map((vault) => (
          <VaultCard key={vault.id} id={id} vault={vault} />
        ))}
      </section>
      <section aria-label="Thinning">
        <h2>Thinning</h2>
        <ThinningRules choice={choice} onChange={change} />
      </section>
    </div>
  );
}

function VaultCard({ id, vault }: { id: string; vault: VaultInfo }) {
  const { check, changeVault } = useBackupWork(id);
  const tell = useTell();
  const failed = (e: Error) => tell.error(e.message);
  return (
    <div className={css.vault}>
      <h3>
        {vault.name} {!vault.connected && <span className="quiet">(away)</span>}
      </h3>
      <p className="quiet">
        {vault.isBegun
          ? `${count(vault.backups, "backup")} of this session, ${vault.allBackups} of all.`
          : "Empty; it is begun by the first backup."}{" "}
        {vault.freeBytes !== null && `${size(vault.freeBytes)} free. `}
        {vault.checkedWhole
          ? `Read and found whole ${when(vault.checkedWhole)}.`
          : vault.isBegun && "Never verified as a whole."}
      </p>
      {vault.sharesDrive && (
        <p className="warning">It is on the same drive as the session: if that drive dies, both are gone.</p>
      )}
      {vault.problem && <p className="trouble">{vault.problem}</p>}
      {vault.damaged.length > 0 && (
        <p className="trouble">
          {count(vault.damaged.length, "object")} damaged, and no place was found that has the same content.
        </p>
      )}
      <div className={css.vaultActions}>
        <ActBox
          checked={vault.isAwayFromHouse}
          onChange={(e) =>
            changeVault.mutate({ vaultId: vault.id, isAwayFromHouse: e.target.checked }, { onError: failed })
          }
        >
          Kept away from the house
        </ActBox>
        <Act
          size="small"
          disabled={!vault.connected || !vault.isBegun}
          onClick={() => check.mutate(vault.id, { onError: failed })}
        >
          Verify all of it
        </Act>
      </div>
      {vault.backups > 0 && <Thinning id={id} vault={vault} going={null} onGoing={() => {}} />}
    </div>
  );
}

interface ThinningProps {
  id: string;
  vault: VaultInfo | null;
  /** What is to go by a plan; null where it goes at once. */
  going: readonly string[] | null;
  onGoing: (keys: readonly string[]) => void;
}

/** What thinning would delete and why, before it happens. */
function Thinning({ id, vault, going, onGoing }: ThinningProps) {
  const thinning = useThinning(id, vault?.id ?? null);
  const { thin } = useBackupWork(id);
  const tell = useTell();
  const all = thinning.data ?? [];
  const goes = all.filter((t) => !t.stays);
  const alone = all.filter((t) => t.alone.length > 0);
  if (all.length === 0) return null;
  return (
    <details className={css.thinning}>
      <summary>
        {`Thinning would delete ${number(goes.length)} of ${count(all.length, vault ? "backup" : "save")}`}
      </summary>
      {alone.map((t) => (
        <p key={t.key} className="warning">
          {when(t.made)} stays: {t.why}.
        </p>
      ))}
      <ul>
        {all.map((t) => (
          <li key={t.key} data-stays={t.stays}>
            <span className="mono">{when(t.made)}</span> {t.stays ? "stays" : "goes"}: {t.why}
          </li>
        ))}
      </ul>
      {goes.length > 0 &&
        (going ? (
          <Checkbox
            checked={going.length > 0}
            onChange={(e) => onGoing(e.target.checked ? goes.map((t) => `document/${t.key}`) : [])}
          >
            {`Delete ${goes.length === 1 ? "it" : `these ${number(goes.length)}`} for good`}
          </Checkbox>
        ) : (
          vault && (
            <Popconfirm
              title={`Delete ${count(goes.length, "backup")} for good?`}
              description="Their files that no other backup holds go with them. It cannot be undone."
              okText="Delete"
              cancelText="Cancel"
              onConfirm={() =>
                thin.mutate(
                  { vaultId: vault.id, keys: goes.map((t) => t.key) },
                  { onError: (e) => tell.error(e.message) },
                )
              }
            >
              <Act size="small" disabled={!vault.connected}>
                Delete {count(goes.length, "backup")}
              </Act>
            </Popconfirm>
          )
        ))}
    </details>
  );
}
