import { Link } from "react-router";
import type { Inventory } from "../api/types";

/** What would be silent if its drive left, by name, with one step to where it is copied in. */
export function OutsideNotice({ inventory }: { inventory: Inventory }) {
  const { atRisk, atRiskFiles } = inventory.outside;
  if (atRiskFiles === 0) return null;
  const more = atRiskFiles > atRisk.length ? ` and ${atRiskFiles - atRisk.length} more` : "";
  return (
    <p className="warning" role="status">
      {`${atRiskFiles === 1 ? "One file stands" : `${atRiskFiles} files stand`} outside this session: ${atRisk.join(", ")}${more}. `}
      <Link to={`/sessions/${inventory.session.id}/copy-in`}>Copy in</Link>
    </p>
  );
}
