import { t } from "@lingui/core/macro";
/** The calls of the service, and the names that the console has for what it answers. */

import type { Answers } from "./generated/answers";
import { portionsOf } from "./parts/filePortions";
import type { Schema } from "./parts/yamlCompletion";

export type EditionStatus = Answers["IndexesEditionStatus"];
export type IndexStatus = Answers["IndexesIndexStatus"];
export type Change = Answers["ChangeTrace"];
export type IndexChange = Answers["IndexChange"];
export type ConditionView = Answers["ConditionsConditionView"];
export type Overview = Answers["Overview"];
export type FacetValue = Answers["SearchAnswerFacetValue"];
export type Facet = Answers["SearchAnswerFacet"];
export type Result = Answers["SearchAnswerResult"];
export type Card = Answers["SearchAnswerCard"];
export type CuratedRule = Answers["SearchAnswerCurated"];
export type SearchAnswer = Answers["SearchAnswer"];
export type Audit = Answers["AuditsAuditView"];
export type Requirement = Answers["Requirement"];
export type SourceCheck = Answers["SourcesChecked"];
export type SourceReader = Answers["SourcesReader"];
export type SourceTable = Answers["CatalogueTable"];
export type Quarantined = Answers["QuarantineMapperQuarantineRow"];
export type FeedPoint = Answers["FeedHistoryPoint"];
export type Explanation = Answers["Explanation"];
export type Suggestion = Answers["TypedCompletionsCompletion"];
export type Endpoint = Answers["EndpointDefinition"];
export type Analyser = Answers["AnalyserAnswer"];
export type Token = Answers["AnalysedToken"];
export type Analysed = Answers["TryAnswer"];
export type Definition = Answers["DefinitionRow"];
export type VersionsCompared = Answers["VersionComparisonCompared"];
export type Plan = Answers["PlanView"];
export type ComparedResult = Answers["ComparedEditionsComparedResult"];
export type ComparedQuery = Answers["ComparedEditionsComparedQuery"];
export type Comparison = Answers["ComparedEditions"];
export type Score = Answers["Score"];
export type Scorecard = Answers["ScorecardDefinition"];
export type Scored = Answers["ScorecardsScored"];
export type ScoreEntry = Answers["ScoreMapperScoreRow"];
export type DefinitionProblem = Answers["DefinitionProblem"];
export type TriedAnalyser = Answers["FieldTrialTried"];
export type IndexTable = Answers["IndexViewTableView"];
export type IndexField = Answers["IndexViewFieldView"];
export type IndexShape = Answers["IndexView"];
export type Session = Answers["SessionView"];
export type AccessKey = Answers["KeyView"];
export type Act = Answers["ActivityMapperActivityRow"];
export type EndpointSearches = Answers["InsightMapperEndpointRow"];
export type InsightRow = Answers["InsightMapperInsightRow"];
export type OpenedRecord = Answers["OpenedRecord"];
export type UsedFacet = Answers["InsightMapperUsedFacetRow"];
export type SearchesAt = Answers["InsightMapperTimeRow"];
export type Job = Answers["JobView"];
export type SearchNode = Answers["NodeView"];
export type SearchNodeEdition = Answers["NodeViewNodeEdition"];
export type StoreView = Answers["StoreView"];
export type StoredEdition = Answers["StoreViewStoredEdition"];
export type EndpointTrial = Answers["EndpointTrial"];
export type Preview = Answers["DefinitionPreviewPreviewed"];

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

/** The event that tells pages that the session has ended. */
export const SIGNED_OUT = "mnemex-signed-out";

/** What the service asks of pages of its own (a token in a cookie that other sites cannot read). */
function ownPage(): Record<string, string> {
  const token = /(?:^|; )XSRF-TOKEN=([^;]*)/.exec(document.cookie)?.[1];
  return token ? { "X-XSRF-TOKEN": decodeURIComponent(token) } : {};
}

/** The service's answer, or what it refused as an error. */
async function ask(path: string, init?: RequestInit): Promise<Response> {
  const response = await fetch(
    path,
    init?.method ? { ...init, headers: { ...init.headers, ...ownPage() } } : init,
  );
  if (response.status === 401 && path !== "/api/session") {
    window.dispatchEvent(new Event(SIGNED_OUT));
  }
  if (!response.ok) {
    const body = await response.json().catch(() => ({}));
    throw new Problem(
      response.status,
      body.detail ?? t`HTTP status ${response.status}`,
      body.suggestion,
      body.problems,
    );
  }
  return response;
}

async function call<T>(path: string, init?: RequestInit): Promise<T> {
  return (await ask(path, init)).json();
}

const index = (name: string) => `/api/indexes/${encodeURIComponent(name)}`;
const insights = (endpoint: string) => `/api/endpoints/${encodeURIComponent(endpoint)}/insights`;
const source = (name: string) => `/api/sources/${encodeURIComponent(name)}`;

/** A call that changes something; its answer may be empty. */
async function act(path: string): Promise<void> {
  await ask(path, { method: "POST" });
}

/** What came of pushing a file so far. */
export interface Imported {
  taken: number;
  refused: number;
  /** The first refused lines, each with the reason. */
  problems: { line: number; problem: string }[];
  done: boolean;
}

const PROBLEMS_SHOWN = 100;
const MEDIA: Record<string, string> = { csv: "text/csv", json: "application/json" };

/** Pushes the records of a file, and tells of each portion that the service has answered. */
async function pushFile(name: string, file: File, tell: (so: Imported) => void): Promise<void> {
  const ending = file.name.split(".").at(-1)?.toLowerCase() ?? "";
  const type = MEDIA[ending] ?? "application/x-ndjson";
  const so: Imported = { taken: 0, refused: 0, problems: [], done: false };
  // A list cannot be taken apart without reading all of it.
  const portions =
    ending === "json" ? [{ text: file, lineOf: same }] : portionsOf(file, ending === "csv");
  const path = `${index(name)}/records?import=${newName()}`;
  for await (const portion of portions) {
    const response = await ask(`${path}&more=true`, {
      method: "POST",
      headers: { "Content-Type": type },
      body: portion.text,
    });
    for (const line of (await response.text()).split("\n")) {
      const answer = line === "" ? {} : JSON.parse(line);
      if (answer.problem) {
        so.refused++;
        if (so.problems.length < PROBLEMS_SHOWN) {
          so.problems.push({ ...answer, line: portion.lineOf(answer.line) });
        }
      } else if (answer.key) {
        so.taken++;
      }
    }
    tell({ ...so, problems: [...so.problems] });
  }
  // Only now it is known that there is nothing more.
  await ask(path, { method: "POST", headers: { "Content-Type": "application/x-ndjson" } });
  tell({ ...so, problems: [...so.problems], done: true });
}

/** `crypto.randomUUID` is not there in pages without TLS. */
const newName = () => crypto.getRandomValues(new Uint32Array(4)).join("-");

const same = (line: number) => line;

function send<T>(path: string, body: unknown): Promise<T> {
  return call<T>(path, {
    method: "POST",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify(body),
  });
}

export const api = {
  session: () => call<Session>("/api/session"),
  signIn: (key: string) => send<Session>("/api/session", { key }),
  signOut: (everywhere: boolean) =>
    call<Session>(`/api/session?everywhere=${everywhere}`, { method: "DELETE" }),
  keys: () => call<AccessKey[]>("/api/keys"),
  createKey: (body: unknown) => send<{ secret: string }>("/api/keys", body),
  rotateKey: (id: string) => send<{ secret: string }>(`/api/keys/${id}/rotate`, {}),
  revokeKey: (id: string) => call<AccessKey>(`/api/keys/${id}`, { method: "DELETE" }),
  activity: (refused: boolean) => call<Act[]>(`/api/activity?limit=50&refused=${refused}`),
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
  tryDefinition: (endpoint: string, file: string, text: string) =>
    send<EndpointTrial>(`/api/endpoints/${encodeURIComponent(endpoint)}/trials`, {
      files: [{ name: file, text }],
    }),
  plan: (file: string, text: string) => send<Plan>("/api/plan", { files: [{ name: file, text }] }),
  apply: (file: string, text: string, plan?: string, hold = false) =>
    send<unknown>("/api/definitions", { files: [{ name: file, text }], plan, hold }),
  nodes: () => call<SearchNode[]>("/api/nodes"),
  store: () => call<StoreView>("/api/store"),
  jobs: () => call<Job[]>("/api/jobs?limit=100"),
  job: (id: number) => call<Job>(`/api/jobs/${id}`),
  cancelJob: (id: number) => act(`/api/jobs/${id}/cancel`),
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
  draftOfFile: (name: string, format: string, sample: string) =>
    send<{ yaml: string }>("/api/draft", { name, format, sample }),
  importFile: pushFile,
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
  /**
   * Searches for words that nobody searched for: they do not count as long as they are being typed,
   * and the space ends the last of them.
   */
  tryWords: (endpoint: string, words: string, size: number) =>
    api.search(endpoint, `q=${encodeURIComponent(`${words} `)}&typing=true&size=${size}`),
  searchesByEndpoint: (days: number) => call<EndpointSearches[]>(`/api/insights?days=${days}`),
  insights: (endpoint: string, report: string, days: number) =>
    call<InsightRow[]>(`${insights(endpoint)}?report=${report}&days=${days}`),
  searchesOverTime: (endpoint: string, days: number) =>
    call<SearchesAt[]>(`${insights(endpoint)}/over-time?days=${days}`),
  usedFacets: (endpoint: string, days: number) =>
    call<UsedFacet[]>(`${insights(endpoint)}/facets?days=${days}`),
  openedRecords: (endpoint: string, days: number, least: number) =>
    call<OpenedRecord[]>(`${insights(endpoint)}/opened?days=${days}&least=${least}`),
  /** The rows of a report for a spreadsheet. */
  insightsAsCsv: async (endpoint: string, report: string, days: number) =>
    (
      await ask(`${insights(endpoint)}?report=${report}&days=${days}&limit=1000`, {
        headers: { Accept: "text/csv" },
      })
    ).blob(),
  suggest: (endpoint: string, text: string) =>
    call<{ suggestions: Suggestion[] }>(
      `/search/${encodeURIComponent(endpoint)}/suggest?q=${encodeURIComponent(text)}`,
    ),
  audits: (index: string) => call<Audit[]>(`/api/indexes/${encodeURIComponent(index)}/audits`),
  audit: (index: string) => send<Audit>(`/api/indexes/${encodeURIComponent(index)}/audits`, {}),
  facet: (endpoint: string, facet: string, begins: string, query: string) =>
    call<Facet>(
      `/search/${encodeURIComponent(endpoint)}/facets/${encodeURIComponent(facet)}` +
        `?begins=${encodeURIComponent(begins)}&${query}`,
    ),
  explain: (endpoint: string, key: string, body: unknown) =>
    send<Explanation>(
      `/search/${encodeURIComponent(endpoint)}/explain?key=${encodeURIComponent(key)}`,
      body,
    ),
  analyse: (text: string, analysers: string[]) =>
    send<Analysed[]>("/api/analysers/try", { text, analysers }),
};
