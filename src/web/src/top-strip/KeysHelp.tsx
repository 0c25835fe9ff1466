import { Modal } from "antd";

const keyRows: [string, string][] = [
  ["1 – 4", "go to a station of the open session"],
  ["/", "filter the list"],
  ["Space", "listen to the chosen file, or pause"],
  ["Up, Down, Home, End", "move in the list"],
  ["Shift or Ctrl with these, or a click", "select more than one"],
  ["Enter", "take the selected files into the plan, or leave them out"],
  ["Ctrl + A", "select the whole list"],
  ["Esc", "clear the filter, close the file tag"],
  ["Ctrl + Enter", "apply the plan"],
  ["Ctrl + Z", "undo the last applied plan"],
  ["?", "this page"],
];

export function KeysHelp({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Modal title="Keys" open={open} onCancel={onClose} footer={null} width={520}>
      <table className="keys">
        <tbody>
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
