/** What is searched for. The names of facets are those of the endpoint. */
export interface Query {
  readonly words: string;
  /** The chosen values by facet. */
  readonly chosen: Readonly<Record<string, readonly string[]>>;
  /** The name of an order of the endpoint; without it, its first one. */
  readonly sort?: string;
  readonly group?: string;
  /** From 1. */
  readonly page: number;
  /** Results on a page; without it, as the endpoint says. */
  readonly size?: number;
  /** Whether the last word is still being typed; such a search counts only once it is meant. */
  readonly typing?: boolean;
  /** Parameters that a page sends with every search, such as `language`, `near` or `relax`. */
  readonly more?: Readonly<Record<string, string>>;
}

export const EMPTY: Query = { words: "", chosen: {}, page: 1 };

/** Parameters that are no facets. */
const RESERVED = new Set([
  ...["q", "similar_to", "similar_text", "typing", "words", "language", "relax", "where", "sort"],
  ...["group", "page", "size", "skip", "top", "after", "total", "fields", "counts", "highlights"],
  ...["near", "true_for", "key", "begins", "endpoint"],
]);

/** The query string of a search, also of the page that shows it; what is usual is left out. */
export function toParameters(query: Query): URLSearchParams {
  const parameters = new URLSearchParams();
  if (query.words.trim()) parameters.set("q", query.words);
  for (const facet of Object.keys(query.chosen).sort()) {
    for (const value of query.chosen[facet] ?? []) parameters.append(facet, value);
  }
  if (query.sort) parameters.set("sort", query.sort);
  if (query.group) parameters.set("group", query.group);
  if (query.page > 1) parameters.set("page", String(query.page));
  if (query.size) parameters.set("size", String(query.size));
  if (query.typing) parameters.set("typing", "true");
  for (const [name, value] of Object.entries(query.more ?? {})) parameters.set(name, value);
  return parameters;
}

/**
 * The search of a page's address.
 *
 * @param usual what the address does not say
 */
export function fromParameters(parameters: URLSearchParams, usual: Query = EMPTY): Query {
  const chosen: Record<string, string[]> = {};
  for (const [name, value] of parameters) {
    if (!RESERVED.has(name)) chosen[name] = [...(chosen[name] ?? []), value];
  }
  const page = Number(parameters.get("page"));
  return {
    ...usual,
    words: parameters.get("q") ?? usual.words,
    chosen: Object.keys(chosen).length ? chosen : usual.chosen,
    sort: parameters.get("sort") ?? usual.sort,
    group: parameters.get("group") ?? usual.group,
    page: Number.isInteger(page) && page > 0 ? page : 1,
  };
}

/** The same with other chosen values of a facet. */
export function choosing(query: Query, facet: string, values: readonly string[]): Query {
  const { [facet]: _, ...others } = query.chosen;
  return { ...query, page: 1, chosen: values.length ? { ...others, [facet]: values } : others };
}
