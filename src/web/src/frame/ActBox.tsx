import { Checkbox, type CheckboxProps } from "antd";
import { useIsConnected } from "../api/connection";

/** A choice that is kept by the server: it cannot be changed while nobody is there to keep it. */
export function ActBox({ disabled, ...box }: CheckboxProps) {
  const isConnected = useIsConnected();
  return <Checkbox {...box} disabled={!isConnected || (disabled ?? false)} />;
}
