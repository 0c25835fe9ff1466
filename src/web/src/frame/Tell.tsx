import { message } from "antd";
import { createContext, type ReactNode, useContext } from "react";

type Message = ReturnType<typeof message.useMessage>[0];

const Context = createContext<Message | null>(null);

/** Where short messages of pages are shown, above all pages. */
export function TellProvider({ children }: { children: ReactNode }) {
  const [messages, place] = message.useMessage();
  return (
    <Context value={messages}>
      {place}
      {children}
    </Context>
  );
}

/** Tells something in passing. */
export function useTell() {
  const messages = useContext(Context);
  if (!messages) throw new Error("Nothing can be told outside of the application.");
  return messages;
}
