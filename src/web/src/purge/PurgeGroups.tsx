import { Checkbox } from "antd";
import type { PurgeGroup, PurgeGroupWeight } from "../api/types";
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
      ? "each goes only by name"
      : `${count(onlyByName, "keeper")} ${onlyByName === 1 ? "stays" : "stay"} unless named`;

/** What could go, in the groups that people think in: each with what it saves, and how it comes back. */
export function PurgeGroups({ groups, going, shown, isRefused, onShow, onGo }: Props) {
  return (
    <div className={css.groups}>
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
            const isWhole = going.groups.includes(g.group);
            const free = g.files - g.onlyByName;
            return (
              <tr key={g.group} className={shown === g.group ? css.shown : ""}>
                <td>
                  <Checkbox
                    aria-label={`Let go of: ${words.title}`}
                    checked={isWhole}
                    indeterminate={isWhole && going.except.length > 0}
                    disabled={isRefused || free === 0}
                    onChange={(e) => onGo(g.group, e.target.checked)}
                  />
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
    </div>
  );
}
