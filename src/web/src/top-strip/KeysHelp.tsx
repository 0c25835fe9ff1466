import { Checkbox, Modal } from "antd";
import { useFocusBack } from "../frame/focus";
import { useRemembered } from "../frame/kept";
import css from "./top-strip.module.css";

const keyRows: [string, string][] = [
  ["O", "open a session, by its name"],
  ["J", "jobs: what runs and what ran"],
  ["/", "filter the list"],
  ["Space", "listen to the chosen file, or pause"],
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
  ["Ctrl + Z (Cmd)", "undo the last applied plan"],
  ["Ctrl + Shift + Z (Cmd)", "redo what was undone last"],
  ["?", "this page"],
];

export function KeysHelp({ onClose }: { onClose: () => void }) {
  useFocusBack();
  const [isNumbered, setNumbered] = useRemembered("number keys", true);
  return (
    <Modal title="Keys" open onCancel={onClose} footer={null} width={520}>
      <table className={css.keys}>
        <tbody>
          <tr>
            <th scope="row">1 – 7</th>
            <td>
              <Checkbox checked={isNumbered} onChange={(e) => setNumbered(e.target.checked)}>
                go to a station of the open session
              </Checkbox>
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
