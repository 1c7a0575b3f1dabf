import { createContext, type ReactNode, useContext, useEffect, useState } from "react";
import { type Overview, SIGNED_OUT } from "../api";

const RETRY_MILLIS = 5000;

interface Received {
  overview?: Overview;
  connected: boolean;
}

const Current = createContext<Received>({ connected: true });

/** Receives the overview for all pages: a browser has few connections to a service. */
export function OverviewProvider({ children }: { children: ReactNode }) {
  return <Current.Provider value={useStream()}>{children}</Current.Provider>;
}

/** The overview as the service sends it, and whether the stream is connected. */
export const useOverview = () => useContext(Current);

function useStream(): Received {
  const [overview, setOverview] = useState<Overview>();
  const [connected, setConnected] = useState(true);
  useEffect(() => {
    let events: EventSource;
    let again: ReturnType<typeof setTimeout> | undefined;
    const connect = () => {
      events = new EventSource("/api/events");
      events.addEventListener("overview", (event) => {
        setConnected(true);
        setOverview(JSON.parse(event.data));
      });
      events.onerror = () => {
        setConnected(false);
        window.dispatchEvent(new Event(SIGNED_OUT));
        // The browser connects again by itself, unless it was refused.
        if (events.readyState === EventSource.CLOSED) {
          again = setTimeout(connect, RETRY_MILLIS);
        }
      };
    };
    connect();
    return () => {
      clearTimeout(again);
      events.close();
    };
  }, []);
  return { overview, connected };
}
