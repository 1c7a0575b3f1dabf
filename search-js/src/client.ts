import type * as answers from "./generated/answers";
import { type Query, toParameters } from "./query";

/** The problem document of a refusal (RFC 9457). */
export interface Problem {
  type?: string;
  title?: string;
  status?: number;
  detail?: string;
  /** What was probably meant. */
  suggestion?: string;
}
export type Facet = answers.SearchAnswerFacet;
export type FacetValue = answers.SearchAnswerFacetValue;
export type Chosen = answers.SearchAnswerChosen;
export type Completion = answers.SuggestAnswer["suggestions"][number];

/** What a page shows of an endpoint before it searches. */
export type PageView = answers.PageView;

/** A result with fields of the caller's type. */
export interface Result<Fields> extends Omit<answers.SearchAnswerResult, "fields" | "group"> {
  fields: Fields;
  group?: Omit<answers.SearchAnswerGroup, "results"> & { results: Result<Fields>[] };
}

export interface Answer<Fields> extends Omit<answers.SearchAnswer, "results"> {
  results: Result<Fields>[];
}

export interface FoundRecords<Fields> extends Omit<answers.SearchAnswerRecords, "results"> {
  results: Result<Fields>[];
}

export interface ClientOptions {
  /** Where the service listens, such as `https://search.example`; without it, the page's origin. */
  service?: string;
  endpoint: string;
  /** A key or token that may only search; browsers show it to everybody. */
  key?: string;
  /** How often a refusal because of load is tried again; otherwise 2. */
  retries?: number;
  /** In the place of the browser's own. */
  fetch?: typeof fetch;
}

const LONGEST_WAIT_SECONDS = 5;

/** The service refused a call, or could not be reached (`status` 0). */
export class SearchProblem extends Error {
  constructor(
    readonly status: number,
    readonly problem: Problem,
  ) {
    super(problem.detail ?? `HTTP status ${status}`);
    this.name = "SearchProblem";
  }
}

/**
 * Calls one endpoint.
 *
 * @typeParam Fields the shown fields of a record, as `GET /search/{endpoint}/openapi.json` has them
 */
export class EndpointClient<Fields = Record<string, unknown>> {
  private readonly base: string;

  constructor(private readonly options: ClientOptions) {
    const service = (options.service ?? "").replace(/\/+$/, "");
    this.base = `${service}/search/${encodeURIComponent(options.endpoint)}`;
  }

  search(query: Query, signal?: AbortSignal): Promise<Answer<Fields>> {
    return this.get("", toParameters(query), signal);
  }

  /** Completes what is being typed. */
  async suggest(text: string, size = 8, signal?: AbortSignal): Promise<Completion[]> {
    const parameters = new URLSearchParams({ q: text, size: String(size) });
    const answer: answers.SuggestAnswer = await this.get("/suggest", parameters, signal);
    return answer.suggestions;
  }

  /** The values of a facet with a word that begins so, counted over the results of a search. */
  facet(name: string, begins: string, query: Query, signal?: AbortSignal): Promise<Facet> {
    const parameters = toParameters({ ...query, page: 1 });
    parameters.set("begins", begins);
    return this.get(`/facets/${encodeURIComponent(name)}`, parameters, signal);
  }

  /** The titles of the endpoint, its orders and its fields. */
  page(signal?: AbortSignal): Promise<PageView> {
    return this.get("/page", new URLSearchParams(), signal);
  }

  /** Records by key, in the order of the keys. */
  records(keys: readonly string[], signal?: AbortSignal): Promise<FoundRecords<Fields>> {
    const parameters = new URLSearchParams(keys.map((key) => ["key", key]));
    return this.get("/records", parameters, signal);
  }

  /**
   * Tells that a result was opened, so that it can be reported what people find. The browser sends
   * it even if the page is left at once. Nothing waits for it, and it fails silently.
   *
   * @param answer the `id` of the answer
   * @param key the record's key; without it, only that the words of the search were meant although
   *     they were still being typed
   * @param position the result's place in the answer, from 1
   */
  chosen(answer: string, key?: string, position?: number): void {
    const ask = this.options.fetch ?? fetch;
    const headers: Record<string, string> = { "Content-Type": "application/json" };
    if (this.options.key) headers.Authorization = `Bearer ${this.options.key}`;
    ask(`${this.base}/chosen`, {
      method: "POST",
      headers,
      keepalive: true,
      body: JSON.stringify({ id: answer, key, position }),
    }).catch(() => {});
  }

  private async get<T>(
    path: string,
    parameters: URLSearchParams,
    signal?: AbortSignal,
  ): Promise<T> {
    const headers: Record<string, string> = {
      Accept: "application/json, application/problem+json",
    };
    if (this.options.key) headers.Authorization = `Bearer ${this.options.key}`;
    const ask = this.options.fetch ?? fetch;
    for (let tried = 0; ; tried++) {
      let response: Response;
      try {
        response = await ask(`${this.base}${path}?${parameters}`, { headers, signal });
      } catch (error) {
        if (signal?.aborted) throw error;
        throw new SearchProblem(0, { detail: "the search service does not answer" });
      }
      if (response.ok) return response.json();
      const seconds = Number(response.headers.get("Retry-After") ?? Number.NaN);
      const busy = response.status === 429 || response.status === 503;
      const again = busy && tried < (this.options.retries ?? 2) && seconds <= LONGEST_WAIT_SECONDS;
      if (!again) {
        throw new SearchProblem(response.status, await response.json().catch(() => ({})));
      }
      await pause(seconds * 1000, signal);
    }
  }
}

function pause(millis: number, signal?: AbortSignal): Promise<void> {
  return new Promise((resolve, reject) => {
    const timer = setTimeout(resolve, millis);
    signal?.addEventListener("abort", () => {
      clearTimeout(timer);
      reject(signal.reason);
    });
  });
}
