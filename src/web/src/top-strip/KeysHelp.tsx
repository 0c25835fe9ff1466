import { Checkbox, Modal } from "antd";
import { useFocusBack } from "../frame/focus";
import { useRemembered } from "../frame/kept";
import css from "./top-strip.module.css";

const keyRows: [string, string][] = [
  ["O", "open a session, by its name"],
  ["J", "jobs: what runs and what ran"],
  ["/", "filter the list"],
  ["Space", "listen to the chosen file, or pause"],
  ["Up, Down, Home, End", "move in the list"],
  ["Shift or Ctrl with these, or a click", "select more than one"],
  ["Enter", "mark the selected files for the plan, or leave them out"],
  ["K, L", "at Purge: keep the file, or remove it, and on to the next"],
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
            <tr key={key}>
              <th scope="row">{key}</th>
              <td>{what}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Modal>
  );
}
