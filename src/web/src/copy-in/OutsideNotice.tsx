import { Link } from "react-router";
import type { Inventory } from "../api/types";

const mostNamed = 5;

/** What would be silent if its drive left, by name, with one step to where it is copied in. */
export function OutsideNotice({ inventory }: { inventory: Inventory }) {
  const outside = inventory.files.filter(
    (f) => f.standing === "Outside" && !f.leftOut && (f.use === "Placed" || f.use === "Listed"),
  );
  if (outside.length === 0) return null;
  const names = outside.slice(0, mostNamed).map((f) => f.name);
  const more = outside.length > mostNamed ? ` and ${outside.length - mostNamed} more` : "";
  return (
    <p className="warning" role="status">
      {`${outside.length === 1 ? "One file stands" : `${outside.length} files stand`} outside this session: ${names.join(", ")}${more}. `}
      <Link to={`/sessions/${inventory.session.id}/copy-in`}>Copy in</Link>
    </p>
  );
}
