import { useEffect, useState } from "react";
import { type Overview, SIGNED_OUT } from "../api";

/** The overview as the service sends it, and whether the stream is connected. */
export function useOverview(): { overview?: Overview; connected: boolean } {
  const [overview, setOverview] = useState<Overview>();
  const [connected, setConnected] = useState(true);
  useEffect(() => {
    const events = new EventSource("/api/events");
    events.addEventListener("overview", (event) => {
      setConnected(true);
      setOverview(JSON.parse(event.data));
    });
    // The browser connects again by itself, unless the session has ended.
    events.onerror = () => {
      setConnected(false);
      window.dispatchEvent(new Event(SIGNED_OUT));
    };
    return () => events.close();
  }, []);
  return { overview, connected };
}
