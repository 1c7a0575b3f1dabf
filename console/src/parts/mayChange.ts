import { createContext, useContext } from "react";
import type { Session } from "../api";

/** The session of the page; a service without keys lets everybody do everything. */
export const CurrentSession = createContext<Session>({
  keys: false,
  name: "local",
  right: "admin",
});

/** Whether the session may change things; others only look. */
export function useMayChange(): boolean {
  return useContext(CurrentSession).right === "admin";
}
