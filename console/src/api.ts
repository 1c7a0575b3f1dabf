/** What the service answers, as far as the console uses it, and the calls. */

import type { Schema } from "./parts/yamlCompletion";

export interface EditionStatus {
  number: number;
  version: number;
  state: "filling" | "ready" | "live" | "former";
  fromStored: boolean;
  until?: string;
  documents: number;
  bytes: number;
  segments: number;
  quarantined: number;
  phase:
    | "STARTING"
    | "BACKFILL"
    | "LIVE"
    | "PAUSED"
    | "HELD"
    | "WAITING"
    | "LOST"
    | "FAILED"
    | "STOPPED";
  problem?: string;
  /** Why its files cannot be trusted any more. */
  damage?: string;
  /** What the source keeps for it, like "120 changes". */
  retained?: string;
  position?: string;
  trueAt?: string;
  recordsDone: number;
  recordsTotal: number;
  recordsPerSecond: number;
  changes: number;
  lagMedianMillis: number;
  lagP99Millis: number;
}

export interface IndexStatus {
  name: string;
  source: string;
  version: number;
  fresh: boolean;
  paused?: boolean;
  held?: string;
  /** Why it is not running, or what failed last. */
  problem?: string;
  live?: EditionStatus;
  next?: EditionStatus;
  former?: EditionStatus;
}

export interface Change {
  key: string;
  table: string;
  outcome: "INDEXED" | "REMOVED" | "UNCHANGED" | "QUARANTINED";
  committed: string;
  captured: string;
  read: string;
  mapped: string;
  visible: string;
}

export interface IndexChange {
  index: string;
  change: Change;
  lagMillis: number;
}

export interface Overview {
  indexes: IndexStatus[];
  changes: IndexChange[];
}

export interface FacetValue {
  value: string;
  label: string;
  count: number;
  chosen: boolean;
  split?: FacetValue[];
}

export interface Facet {
  title: string;
  values: FacetValue[];
  more: boolean;
  searchable?: boolean;
  statistics?: {
    count: number;
    least: string;
    greatest: string;
    sum?: string;
    mean?: number;
    percentiles?: Record<string, string>;
  };
}

export interface Result {
  key: string;
  score: number;
  fields: Record<string, unknown>;
  highlights: Record<string, string[]>;
  rows?: Record<string, Record<string, unknown>[]>;
  link?: string;
}

/** Which shown fields name a result. */
export interface Card {
  title?: string;
  subtitle?: string;
  picture?: string;
}

export interface SearchAnswer {
  total: { count: number; exact: boolean };
  results: Result[];
  facets: Record<string, Facet>;
  chosen: { facet: string; value: string; label: string; remove: string }[];
  page: number;
  pages: number;
  asOf: { position?: string; time?: string; edition: number };
  millis: number;
  didYouMean?: string;
  card: Card;
}

export interface Audit {
  id: number;
  started: string;
  state: "running" | "done" | "failed";
  statement?: string;
  clean?: boolean;
  result?: { missing: string[]; stale: string[]; extra: string[]; needless?: string[] };
}

/** Something that a database must or should have. */
export interface Requirement {
  what: string;
  met: boolean;
  statements: string[];
  kind: "PREPARABLE" | "ADMINISTRATIVE" | "ADVICE";
}

export interface SourceCheck {
  source: string;
  reachable: boolean;
  problem: string;
  requirements: Requirement[];
  readers: SourceReader[];
}

/** Somebody for whom a source keeps changes. */
export interface SourceReader {
  name: string;
  /** The edition that it is for, in words; missing if it is none of this installation. */
  feeds?: string;
  retained: number;
  unit: string;
}

export interface SourceTable {
  name: string;
  view: boolean;
  columns: { name: string; type: string; binary: boolean }[];
  key: string[];
}

export interface Quarantined {
  recordKey: string;
  reason: string;
  since: string;
  dismissed: boolean;
}

/** What a feed did in a second. */
export interface FeedPoint {
  at: string;
  changes: number;
  lagMillis?: number;
}

/** A number and how it came about. */
export interface Explanation {
  what: string;
  value: number;
  matched: boolean;
  how?: "SUM" | "PRODUCT" | "FORMULA";
  parts: Explanation[];
}

export interface Suggestion {
  text: string;
  field: string;
  key: string;
}

export interface Endpoint {
  name: string;
  index: string;
  only?: string;
  sorts: Record<string, unknown>;
  facets: Record<string, unknown>;
}

export interface Analyser {
  name: string;
  builtIn: boolean;
  chain: string[];
  definition: string;
  warnings: string[];
}

export interface Token {
  text: string;
  start: number;
  end: number;
  position: number;
}

export interface Analysed {
  analyser: string;
  steps: { step: string; text?: string; tokens: Token[] }[];
}

/** A definition as it counts now. */
export interface Definition {
  kind: "source" | "analyser" | "index" | "endpoint";
  name: string;
  version: number;
  file: string;
  text: string;
  createdAt: string;
  /** Who applied it; empty if that is not known. */
  author: string;
}

/** Two versions and how they differ. */
export interface VersionsCompared {
  differences: { path: string; cost: string; reason: string }[];
  /** In the unified format. */
  lines: string[];
}

export interface Plan {
  plan: string;
  cost?: string;
  changes: {
    kind: string;
    name: string;
    change: string;
    version: number;
    cost?: string;
    differences: { path: string; cost: string; reason: string }[];
    estimate?: {
      records: number;
      seconds?: number;
      bytes: number;
      databaseReads: number;
      basis: string;
    };
  }[];
  warnings: { about: string; detail: string }[];
}

export interface ComparedResult {
  key: string;
  label: string;
  score: number;
  other?: number;
}

export interface ComparedQuery {
  words: string;
  leftTotal: number;
  rightTotal: number;
  changed: number;
  sameOrder: boolean;
  left: ComparedResult[];
  right: ComparedResult[];
  problem?: string;
}

export interface Comparison {
  endpoint: string;
  left: number;
  right: number;
  top: number;
  changedShare: number;
  toZero: string[];
  fromZero: string[];
  queries: ComparedQuery[];
}

export interface Score {
  ndcg: number;
  reciprocalRank: number;
  precision: number;
  recall: number;
}

export interface Scorecard {
  name: string;
  endpoint: string;
  top: number;
  least: number;
  mostFall?: number;
  queries: { words: string; grades: Record<string, number> }[];
}

export interface Scored {
  scorecard: string;
  edition: number;
  top: number;
  total: Score;
  queries: { words: string; score: Score; missing: string[]; problem?: string }[];
}

export interface ScoreEntry extends Score {
  edition: number;
  indexVersion: number;
  at: string;
}

/** Something wrong in a definition, and where. */
export interface DefinitionProblem {
  file: string;
  line: number;
  column: number;
  key: string;
  detail: string;
  suggestion?: string;
}

/** Try another analyser on a field about a field. */
export interface TriedAnalyser {
  field: string;
  before: string;
  after: string;
  documents: {
    looked: number;
    touched: number;
    goes: { term: string; documents: number }[];
    comes: { term: string; documents: number }[];
  };
  queries: { words: string; before: string[]; after: string[] }[];
}

/** A table that a record is read from. */
export interface IndexTable {
  name: string;
  table: string;
  of?: string;
  many: boolean;
  match: string[];
  link?: string;
  only?: string;
  order: string[];
  limit: number;
  columns: string[];
}

export interface IndexField {
  name: string;
  title: string;
  type: string;
  from?: string;
  sql: boolean;
  analyser?: string;
  queryAnalyser?: string;
  uses: string[];
  clean: string[];
  weight: number;
  children: IndexField[];
}

/** What a definition of an index says. */
export interface IndexShape {
  name: string;
  source: string;
  tables: IndexTable[];
  never: string[];
  fields: IndexField[];
}

/** One record, as a definition would have it. */
export interface Preview {
  index: IndexShape;
  key?: string;
  record?: { columns: Record<string, unknown>; computed: Record<string, unknown> };
  fields?: Record<string, unknown[]>;
  tokens?: Record<string, string[]>;
  problem?: string;
}

/** What the service refused, with its sentence. */
export class Problem extends Error {
  constructor(
    readonly status: number,
    readonly detail: string,
    readonly suggestion?: string,
    readonly problems: DefinitionProblem[] = [],
  ) {
    super(detail);
  }
}

async function call<T>(path: string, init?: RequestInit): Promise<T> {
  const response = await fetch(path, init);
  if (!response.ok) {
    const body = await response.json().catch(() => ({}));
    throw new Problem(
      response.status,
      body.detail ?? `HTTP status ${response.status}`,
      body.suggestion,
      body.problems,
    );
  }
  return response.json();
}

const index = (name: string) => `/api/indexes/${encodeURIComponent(name)}`;
const source = (name: string) => `/api/sources/${encodeURIComponent(name)}`;

/** A call that changes something; its answer may be empty. */
async function act(path: string): Promise<void> {
  const response = await fetch(path, { method: "POST" });
  if (!response.ok) {
    const body = await response.json().catch(() => ({}));
    throw new Problem(
      response.status,
      body.detail ?? `HTTP status ${response.status}`,
      body.suggestion,
    );
  }
}

function send<T>(path: string, body: unknown): Promise<T> {
  return call<T>(path, {
    method: "POST",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify(body),
  });
}

export const api = {
  definitions: () => call<Definition[]>("/api/definitions"),
  versions: (kind: string, name: string) =>
    call<Definition[]>(`/api/definitions/${kind}/${encodeURIComponent(name)}`),
  differences: (kind: string, name: string, from: number, to: number) =>
    call<VersionsCompared>(
      `/api/definitions/${kind}/${encodeURIComponent(name)}/differences?from=${from}&to=${to}`,
    ),
  schemas: async () => {
    const kinds = await call<string[]>("/api/schemas");
    const found = await Promise.all(kinds.map((kind) => call<Schema>(`/api/schemas/${kind}`)));
    return Object.fromEntries(kinds.map((kind, i) => [kind, found[i] ?? {}]));
  },
  check: (file: string, text: string) =>
    send<{ problems: DefinitionProblem[] }>("/api/check", { files: [{ name: file, text }] }),
  shape: (name: string) => call<IndexShape>(`${index(name)}/shape`),
  preview: (name: string, file: string, text: string, key?: string) =>
    send<Preview>("/api/preview", { index: name, files: [{ name: file, text }], key }),
  plan: (file: string, text: string) => send<Plan>("/api/plan", { files: [{ name: file, text }] }),
  apply: (file: string, text: string, plan?: string, hold = false) =>
    send<unknown>("/api/definitions", { files: [{ name: file, text }], plan, hold }),
  scorecards: () => call<Scorecard[]>("/api/scorecards"),
  score: (name: string, edition: number) =>
    send<Scored>(`/api/scorecards/${encodeURIComponent(name)}/score?edition=${edition}`, {}),
  scores: (name: string) =>
    call<ScoreEntry[]>(`/api/scorecards/${encodeURIComponent(name)}/history`),
  promote: (name: string) => act(`${index(name)}/promote`),
  rollback: (name: string) => act(`${index(name)}/rollback`),
  compare: (endpoint: string, queries: string[]) =>
    send<Comparison>(`/api/endpoints/${encodeURIComponent(endpoint)}/compare`, {
      queries: queries.length > 0 ? queries : undefined,
    }),
  explainBoth: (endpoint: string, words: string, key: string, left: number, right: number) =>
    call<{ left?: Explanation; right?: Explanation }>(
      `/api/endpoints/${encodeURIComponent(endpoint)}/compare/explain?q=${encodeURIComponent(words)}` +
        `&key=${encodeURIComponent(key)}&left=${left}&right=${right}`,
    ),
  tryOnField: (name: string, field: string, analyser: string) =>
    send<TriedAnalyser>(`${index(name)}/fields/${encodeURIComponent(field)}/try`, { analyser }),
  sources: () => call<string[]>("/api/sources"),
  checkSource: (name: string) => call<SourceCheck>(`${source(name)}/check`),
  tables: (name: string) => call<SourceTable[]>(`${source(name)}/tables`),
  rows: (name: string, table: string) =>
    call<Record<string, unknown>[]>(
      `${source(name)}/tables/${encodeURIComponent(table)}/rows?limit=20`,
    ),
  draft: (name: string, table: string) =>
    call<{ yaml: string }>(`${source(name)}/draft?table=${encodeURIComponent(table)}`),
  feedHistory: (name: string) => call<FeedPoint[]>(`${index(name)}/feed/history`),
  feed: (name: string, what: "pause" | "resume" | "agree") => act(`${index(name)}/feed/${what}`),
  quarantine: (name: string) => call<Quarantined[]>(`${index(name)}/quarantine`),
  retry: (name: string, key?: string) =>
    act(`${index(name)}/quarantine/retry${key ? `?key=${encodeURIComponent(key)}` : ""}`),
  dismiss: (name: string, key: string) =>
    act(`${index(name)}/quarantine/dismiss?key=${encodeURIComponent(key)}`),
  overview: () => call<Overview>("/api/overview"),
  endpoints: () => call<Endpoint[]>("/api/endpoints"),
  analysers: () => call<Analyser[]>("/api/analysers"),
  search: (endpoint: string, query: string) =>
    call<SearchAnswer>(`/search/${encodeURIComponent(endpoint)}?${query}`),
  suggest: (endpoint: string, text: string) =>
    call<{ suggestions: Suggestion[] }>(
      `/search/${encodeURIComponent(endpoint)}/suggest?q=${encodeURIComponent(text)}`,
    ),
  audits: (index: string) => call<Audit[]>(`/api/indexes/${encodeURIComponent(index)}/audits`),
  audit: (index: string) =>
    call<Audit>(`/api/indexes/${encodeURIComponent(index)}/audits`, {
      method: "POST",
      headers: { "Content-Type": "application/json" },
      body: "{}",
    }),
  facet: (endpoint: string, facet: string, begins: string, query: string) =>
    call<Facet>(
      `/search/${encodeURIComponent(endpoint)}/facets/${encodeURIComponent(facet)}` +
        `?begins=${encodeURIComponent(begins)}&${query}`,
    ),
  explain: (endpoint: string, key: string, body: unknown) =>
    call<Explanation>(
      `/search/${encodeURIComponent(endpoint)}/explain?key=${encodeURIComponent(key)}`,
      {
        method: "POST",
        headers: { "Content-Type": "application/json" },
        body: JSON.stringify(body),
      },
    ),
  analyse: (text: string, analysers: string[]) =>
    call<Analysed[]>("/api/analysers/try", {
      method: "POST",
      headers: { "Content-Type": "application/json" },
      body: JSON.stringify({ text, analysers }),
    }),
};
