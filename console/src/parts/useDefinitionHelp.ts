import { useQuery } from "@tanstack/react-query";
import { api, type IndexShape } from "../api";
import type { Names, Schema } from "./yamlCompletion";

const NONE: Record<string, Schema> = {};

/**
 * What an editor of definitions offers: the schemas, and names that are known.
 *
 * @param shape of the index whose definition is edited; its tables' columns are offered then
 */
export function useDefinitionHelp(shape?: IndexShape): {
  schemas: Record<string, Schema>;
  names: Names;
} {
  const schemas = useQuery({ queryKey: ["schemas"], queryFn: api.schemas, staleTime: Infinity });
  const analysers = useQuery({ queryKey: ["analysers"], queryFn: api.analysers });
  const sources = useQuery({ queryKey: ["sources"], queryFn: api.sources });
  const endpoints = useQuery({ queryKey: ["endpoints"], queryFn: api.endpoints });
  const tables = useQuery({
    queryKey: ["tables", shape?.source],
    queryFn: () => api.tables(shape?.source ?? ""),
    enabled: shape !== undefined,
  });
  const cut = (analysers.data ?? []).map((analyser) => analyser.name);
  return {
    schemas: schemas.data ?? NONE,
    names: {
      analyser: cut,
      query_analyser: cut,
      source: sources.data ?? [],
      index: [...new Set((endpoints.data ?? []).map((endpoint) => endpoint.index))],
      endpoint: (endpoints.data ?? []).map((endpoint) => endpoint.name),
      root: (tables.data ?? []).map((table) => table.name),
      table: (tables.data ?? []).map((table) => table.name),
      from: (shape?.tables ?? []).flatMap((read) =>
        (tables.data?.find((table) => table.name === read.table)?.columns ?? []).map((column) =>
          read.of === undefined ? column.name : `${read.name}.${column.name}`,
        ),
      ),
    },
  };
}
