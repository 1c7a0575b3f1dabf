import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { createContext, type ReactNode, useContext, useEffect, useState } from "react";
import { useSearchParams } from "react-router";
import { api, type Endpoint } from "../api";
import { useOverview } from "./overview";

const Chosen = createContext<string | undefined>(undefined);

/**
 * Keeps the index that is worked on while pages change: the one that the address names, or whose
 * endpoint it names, else the one before, else the first.
 */
export function ChosenIndexProvider({ children }: { children: ReactNode }) {
  const [params] = useSearchParams();
  const [kept, setKept] = useState<string>();
  const endpoints = useEndpoints();
  const endpoint = endpoints.data?.find((one) => one.name === params.get("endpoint"));
  const indexes = useOverview().overview?.indexes ?? [];
  const isThere = (name: string | undefined) => indexes.some((one) => one.name === name);
  const named = [params.get("index") ?? undefined, endpoint?.index].find(isThere);
  const name = named ?? (isThere(kept) ? kept : indexes[0]?.name);
  useEffect(() => setKept(name), [name]);
  return <Chosen.Provider value={name}>{children}</Chosen.Provider>;
}

/** The chosen one of these indexes, or the first. */
export function useChosenIndex<T extends { name: string }>(indexes: T[]): T | undefined {
  const name = useContext(Chosen);
  return indexes.find((one) => one.name === name) ?? indexes[0];
}

const useEndpoints = () => useQuery({ queryKey: ["endpoints"], queryFn: api.endpoints });

/** The endpoints of the chosen index, and the one of them that the address names, or the first. */
export function useChosenEndpoint(): {
  endpoint?: Endpoint;
  endpoints: Endpoint[];
  known: boolean;
  error: Error | null;
} {
  const [params] = useSearchParams();
  const index = useContext(Chosen);
  const all = useEndpoints();
  const endpoints = (all.data ?? []).filter((one) => index === undefined || one.index === index);
  return {
    endpoint: endpoints.find((one) => one.name === params.get("endpoint")) ?? endpoints[0],
    endpoints,
    known: all.data !== undefined,
    error: all.error,
  };
}

/** A page that has nothing to choose from yet. */
export function NoIndexYet() {
  return (
    <section className="rounded border border-line bg-surface p-6">
      <h1 className="text-xl font-semibold">
        <Trans>There is no index yet</Trans>
      </h1>
      <p className="mt-1">
        <Trans>
          Sources shows the tables of a database and drafts a definition from one of them.
        </Trans>
      </p>
    </section>
  );
}

/** A page about endpoints of an index that has none. */
export function NoEndpointYet() {
  return (
    <section className="rounded border border-line bg-surface p-6">
      <h1 className="text-xl font-semibold">
        <Trans>There is no endpoint yet</Trans>
      </h1>
      <p className="mt-1">
        <Trans>
          Sources drafts an index together with an endpoint, from a table or from a file.
        </Trans>
      </p>
    </section>
  );
}
