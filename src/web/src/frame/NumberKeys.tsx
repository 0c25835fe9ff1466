import { Checkbox } from "antd";
import { useRemembered } from "./kept";

/** Whether a number alone leads to the station of that number; where it does not, no key is pressed by mistake. */
export const useNumberKeys = () => useRemembered("number keys", true);

export function NumberKeys() {
  const [isNumbered, setNumbered] = useNumberKeys();
  return (
    <Checkbox checked={isNumbered} onChange={(e) => setNumbered(e.target.checked)}>
      The keys 1 to 7 go to the stations of the open session
    </Checkbox>
  );
}
