import { createContext, useContext } from "react";

const Context = createContext("");

/** Tells everything inside which session it belongs to. */
export const SessionProvider = Context.Provider;

/** Identity of the session at hand; empty outside of one. */
export const useSessionId = () => useContext(Context);
