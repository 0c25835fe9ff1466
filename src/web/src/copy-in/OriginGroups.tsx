import { Checkbox } from "antd";
import type { FileEntry, Origin } from "../api/types";
import { count, size } from "../words";

const kindWord: Record<Origin["kind"], string> = {
  OtherSession: "another session",
  OwnLibrary: "own library",
  StockContent: "stock content",
  Removable: "removable drive",
  Loose: "loose",
};

const kindOrder = Object.keys(kindWord);

export interface OriginGroup {
  origin: Origin;
  files: FileEntry[];
}

/** Outside files and files that are away, by the place they come from; loose ones last. */
export function originGroups(files: readonly FileEntry[]): OriginGroup[] {
  const groups = new Map<string, OriginGroup>();
  for (const file of files) {
    if (!file.origin) continue;
    const group = groups.get(file.origin.place) ?? { origin: file.origin, files: [] };
    group.files.push(file);
    groups.set(file.origin.place, group);
  }
  const order = (g: OriginGroup) => `${kindOrder.indexOf(g.origin.kind)} ${g.origin.name}`;
  return [...groups.values()].toSorted((a, b) => (order(a) < order(b) ? -1 : 1));
}

const bytesOf = (files: readonly FileEntry[]) => files.reduce((sum, f) => sum + f.bytes, 0);

interface Props {
  groups: OriginGroup[];
  chosen: string | null;
  onChoose: (place: string | null) => void;
  onMark: (group: OriginGroup, taken: boolean) => void;
}

/** Where outside files come from: each place with its weight, taken or left out as a whole, and a filter for the list. */
export function OriginGroups({ groups, chosen, onChoose, onMark }: Props) {
  if (groups.length === 0) return null;
  return (
    <ul className="origins" aria-label="Where outside files come from">
      {groups.map((group) => {
        const { origin, files } = group;
        const there = files.filter((f) => f.standing === "Outside");
        const taken = there.filter((f) => !f.leftOut);
        const away = files.filter((f) => f.standing !== "Outside");
        const awayBytes = away.every((f) => f.changed !== null) ? `, ${size(bytesOf(away))}` : "";
        return (
          <li key={origin.place} className={taken.length === 0 ? "left-out" : ""}>
            <Checkbox
              aria-label={`Copy in from ${origin.name}`}
              checked={taken.length === there.length && there.length > 0}
              indeterminate={taken.length > 0 && taken.length < there.length}
              disabled={there.length === 0}
              onChange={(e) => onMark(group, e.target.checked)}
            />
            <button
              type="button"
              aria-pressed={chosen === origin.place}
              title={origin.place}
              onClick={() => onChoose(chosen === origin.place ? null : origin.place)}
            >
              <strong>{origin.name}</strong>
              <span className="quiet">{kindWord[origin.kind]}</span>
              <span className="mono">
                {there.length > 0 && `${count(there.length, "file")}, ${size(bytesOf(there))}`}
                {away.length > 0 && `${there.length > 0 ? " · " : ""}${away.length} away${awayBytes}`}
              </span>
              <span className="origin-state">
                {there.length === 0
                  ? "connect it to copy in"
                  : taken.length === 0
                    ? "left out: this session depends on it"
                    : taken.length < there.length
                      ? `${there.length - taken.length} left out`
                      : "comes in"}
              </span>
            </button>
          </li>
        );
      })}
    </ul>
  );
}
