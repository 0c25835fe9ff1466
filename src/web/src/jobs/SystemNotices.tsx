import { Checkbox } from "antd";
import { useSystemNotices } from "./systemNotices";

/** The choice whether the system tells that work ended; nothing where the browser cannot. */
export function SystemNotices() {
  const notices = useSystemNotices();
  if (!notices.isPossible) return null;
  return (
    <Checkbox checked={notices.isChosen} onChange={(e) => void notices.choose(e.target.checked)}>
      Have the system tell when work ends while this page is behind
    </Checkbox>
  );
}
