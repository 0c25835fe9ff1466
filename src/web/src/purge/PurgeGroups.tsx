import { Button, Checkbox } from "antd";
import type { PurgeGroup, PurgeGroupWeight } from "../api/types";
import { useRemembered } from "../frame/kept";
import { count, size } from "../words";
import type { Going } from "./choices";
import css from "./purge.module.css";
import { groupWords } from "./words";

interface Props {
  groups: readonly PurgeGroupWeight[];
  going: Going;
  shown: PurgeGroup | null;
  isRefused: boolean;
  onShow: (group: PurgeGroup | null) => void;
  onGo: (group: PurgeGroup, on: boolean) => void;
}

const named = ({ onlyByName, files }: PurgeGroupWeight) =>
  onlyByName === 0
    ? ""
    : onlyByName === files
      ? "tick each file yourself"
      : `${count(onlyByName, "keeper")} ${onlyByName === 1 ? "stays" : "stay"} unless you tick ${onlyByName === 1 ? "it" : "them"}`;

/** What could go, in the groups that people think in: close together for whoever knows them, or each with what it is and how it comes back. */
export function PurgeGroups(props: Props) {
  const [isExplained, setExplained] = useRemembered("purge groups explained", false);
  return (
    <div className={css.groups}>
      {isExplained ? <Explained {...props} /> : <Close {...props} />}
      <Button size="small" type="text" aria-expanded={isExplained} onClick={() => setExplained(!isExplained)}>
        {isExplained ? "Fold the groups" : "Explain the groups"}
      </Button>
    </div>
  );
}

const weightOf = (g: PurgeGroupWeight) =>
  g.group === "EmptyFolders" ? count(g.files, "folder") : `${count(g.files, "file")}, ${size(g.bytes)}`;

function GoesWhole({
  group: g,
  going,
  isRefused,
  onGo,
}: Pick<Props, "going" | "isRefused" | "onGo"> & { group: PurgeGroupWeight }) {
  const isWhole = going.groups.includes(g.group);
  return (
    <Checkbox
      aria-label={`Remove: ${groupWords[g.group].title}`}
      checked={isWhole}
      indeterminate={isWhole && going.except.length > 0}
      disabled={isRefused || g.files === g.onlyByName}
      onChange={(e) => onGo(g.group, e.target.checked)}
    />
  );
}

function Close({ groups, shown, onShow, ...how }: Props) {
  return (
    <ul className={css.close} aria-label="What could go">
      {groups.map((g) => {
        const { title, about, back } = groupWords[g.group];
        const isShown = shown === g.group;
        return (
          <li key={g.group} className={isShown ? css.shown : ""}>
            <GoesWhole group={g} {...how} />
            <button
              type="button"
              aria-pressed={isShown}
              title={`${named(g) || about}. ${back}`}
              onClick={() => onShow(isShown ? null : g.group)}
            >
              <strong>{title}</strong> <span className="mono quiet">{weightOf(g)}</span>
              {named(g) && <span className="quiet"> {named(g)}</span>}
            </button>
          </li>
        );
      })}
    </ul>
  );
}

function Explained({ groups, shown, onShow, ...how }: Props) {
  return (
    <table aria-label="What could go">
      <thead className="unseen">
        <tr>
          <th>Goes</th>
          <th>Group</th>
          <th>Files</th>
          <th>Size</th>
          <th>How it comes back</th>
        </tr>
      </thead>
      <tbody>
        {groups.map((g) => {
          const words = groupWords[g.group];
          return (
            <tr key={g.group} className={shown === g.group ? css.shown : ""}>
              <td>
                <GoesWhole group={g} {...how} />
              </td>
              <td>
                <button
                  type="button"
                  aria-pressed={shown === g.group}
                  onClick={() => onShow(shown === g.group ? null : g.group)}
                >
                  <strong>{words.title}</strong> <span className="quiet">{named(g) || words.about}</span>
                </button>
              </td>
              <td className={css.figure}>
                {g.group === "EmptyFolders" ? count(g.files, "folder") : count(g.files, "file")}
              </td>
              <td className={css.figure}>{g.group === "EmptyFolders" ? "" : size(g.bytes)}</td>
              <td className={`quiet ${css.back}`}>{words.back}</td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
