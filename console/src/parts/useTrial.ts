import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api } from "../api";
import { useMayChange } from "./mayChange";

const TRIED_AFTER_MILLIS = 500;

/**
 * The name to call an endpoint by, as it would be under a definition that is being edited. As long
 * as nothing differs, it is the endpoint's own.
 *
 * @param applied the text of the definition before it was edited
 * @param edited the file that it came from, and its text now
 */
export function useTrial(
  endpoint: string,
  applied: string,
  edited: { file: string; text: string },
) {
  const mayChange = useMayChange();
  const settled = useSettled(edited.text);
  const differs = settled !== applied && mayChange;
  const trial = useQuery({
    queryKey: ["trial", endpoint, edited.file, settled],
    queryFn: () => api.tryDefinition(endpoint, edited.file, settled),
    enabled: differs,
    staleTime: 30 * 60_000,
    placeholderData: keepPreviousData,
  });
  return {
    name: (differs && trial.data?.endpoint) || endpoint,
    differs,
    error: differs ? trial.error : null,
  };
}

/** A text once it stays the same for a moment. */
function useSettled(text: string): string {
  const [settled, setSettled] = useState(text);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(text), TRIED_AFTER_MILLIS);
    return () => clearTimeout(timer);
  }, [text]);
  return settled;
}
