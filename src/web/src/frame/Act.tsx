import { Button, type ButtonProps } from "antd";
import { useIsConnected } from "../api/connection";

/** A button that has something done: it cannot be pressed while nobody is there to do it. */
export function Act({ disabled, title, ...button }: ButtonProps) {
  const isConnected = useIsConnected();
  return (
    <Button
      {...button}
      disabled={!isConnected || (disabled ?? false)}
      title={isConnected ? title : "Neat Crate does not answer"}
    />
  );
}
