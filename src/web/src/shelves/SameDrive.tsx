import type { Shelf } from "../api/types";

/** Where a vault is on the drive of sessions that it is to outlive, that is said wherever the vault is shown. */
export function SameDrive({ shelf, shelves }: { shelf: Shelf; shelves: readonly Shelf[] }) {
  if (shelf.kind !== "Vault") return null;
  const beside = shelves.filter((s) => s.id !== shelf.id && s.drive === shelf.drive && s.kind === "SessionDrive");
  if (beside.length === 0) return null;
  return (
    <p className="warning">
      {`On one drive with ${beside.map((s) => `“${s.name}”`).join(", ")}: if that drive dies, both are gone.`}
    </p>
  );
}
