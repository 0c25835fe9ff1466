import { Modal } from "antd";
import { useLocation } from "react-router";
import { useFocusBack } from "../frame/focus";
import { NumberKeys } from "../frame/NumberKeys";
import { helpTexts, placeOf } from "./helpTexts";
import css from "./top-strip.module.css";

const keyRows: [string, string][] = [
  ["O", "open a session, by its name"],
  ["J", "jobs: what runs and what ran"],
  ["/", "filter the list"],
  ["Space", "listen to the chosen file, or pause"],
  ["Down", "into the list, where nothing else has the keyboard"],
  ["Up, Down, Home, End, Page keys", "move in the list"],
  ["Shift or Ctrl with these, or a click", "select more than one"],
  ["Enter", "mark the selected files for the plan, or leave them out"],
  ["Shift + F10, or the menu key", "all that can be done with the file or the row at hand"],
  ["K, L", "at Purge: keep the file, or remove it, and on to the next"],
  ["K, L", "at Relink: use the file that is compared, or don't, and on to the next pair"],
  ["N, X, B", "at Relink: the next pair; the next file that may be it; hear the other of the two"],
  ["K, N, P, T, U", "in the take log: keeper, note, place at its time, at another time, take off the track"],
  ["Left, Right, Up, Down, Home, End, Page keys", "in the logbook: along the day, and from day to day"],
  ["Ctrl + A", "select the whole list"],
  ["Esc", "clear the filter, close the file tag"],
  ["Ctrl + Enter (Cmd)", "apply the plan"],
  ["Ctrl + Z (Cmd)", "take back the last mark; where there is none, undo the last applied plan"],
  ["Ctrl + Shift + Z (Cmd)", "mark again, or redo what was undone last"],
  ["?", "this page"],
];

/** What the place at hand is for, and all keys. */
export function Help({ onClose }: { onClose: () => void }) {
  useFocusBack();
  const { pathname } = useLocation();
  const here = helpTexts[placeOf(pathname)];
  return (
    <Modal title={here?.title ?? "Help"} open onCancel={onClose} footer={null} width={640}>
      {here && (
        <div className={css.helpHere}>
          {here.says.map((text) => (
            <p key={text}>{text}</p>
          ))}
        </div>
      )}
      <h3 className={css.helpKeys}>Keys</h3>
      <table className={css.keys}>
        <tbody>
          <tr>
            <th scope="row">1 – 7</th>
            <td>
              <NumberKeys />
            </td>
          </tr>
          {keyRows.map(([key, what]) => (
            <tr key={what}>
              <th scope="row">{key}</th>
              <td>{what}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Modal>
  );
}
