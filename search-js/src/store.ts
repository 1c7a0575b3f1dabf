import {
  type Answer,
  type Completion,
  type EndpointClient,
  type Facet,
  SearchProblem,
} from "./client";
import { choosing, EMPTY, fromParameters, type Query, toParameters } from "./query";

/** What a search page shows. */
export interface SearchState<Fields> {
  readonly query: Query;
  /** What is in the box, which may be ahead of the query. */
  readonly typed: string;
  /** The latest answer; while another is awaited, still the former. */
  readonly answer?: Answer<Fields>;
  readonly problem?: SearchProblem;
  readonly loading: boolean;
  readonly completions: readonly Completion[];
}

export interface StoreOptions {
  /** What a page begins with, and what its address does not say. */
  usual?: Partial<Query>;
  /** Whether the page's address follows the search, so that it can be sent and gone back from. */
  address?: boolean;
  /** Milliseconds without a key before typed words are searched for; otherwise 150. */
  wait?: number;
  /** Milliseconds without a key before typed words count as a search; otherwise 2000. */
  meant?: number;
}

const WAIT = 150;
const MEANT = 2000;

/** Keeps the state of a search page; knows nothing of how it looks. */
export class SearchStore<Fields = Record<string, unknown>> {
  private current: SearchState<Fields>;
  private readonly listeners = new Set<() => void>();
  private readonly usual: Query;
  private readonly wait: number;
  private readonly meant: number;
  private searching?: AbortController;
  private completing?: AbortController;
  private timer?: ReturnType<typeof setTimeout>;
  private settling?: ReturnType<typeof setTimeout>;

  constructor(
    readonly client: EndpointClient<Fields>,
    private readonly options: StoreOptions = {},
  ) {
    this.usual = { ...EMPTY, ...options.usual };
    this.wait = options.wait ?? WAIT;
    this.meant = options.meant ?? MEANT;
    const query = options.address ? this.ofAddress() : this.usual;
    this.current = { query, typed: query.words, loading: false, completions: [] };
  }

  /** Begins: searches, and follows the address. Returns what ends it. */
  start(): () => void {
    const back = () => this.ask(this.ofAddress());
    if (this.options.address) window.addEventListener("popstate", back);
    this.ask(this.current.query);
    return () => {
      window.removeEventListener("popstate", back);
      clearTimeout(this.timer);
      clearTimeout(this.settling);
      this.searching?.abort();
      this.completing?.abort();
    };
  }

  state = (): SearchState<Fields> => this.current;

  /** Calls a listener after every change. Returns what ends that. */
  subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  /** Takes what was typed: completes it at once, and searches when no more comes. */
  type(text: string): void {
    this.change({ typed: text });
    clearTimeout(this.timer);
    clearTimeout(this.settling);
    const query = { ...this.withWords(text), typing: text.trim() !== "" };
    this.timer = setTimeout(() => this.go(query, "replace"), this.wait);
    void this.complete(text);
  }

  /** Searches for words now. */
  submit(words = this.current.typed): void {
    this.noCompletions();
    this.go(this.withWords(words), "push");
  }

  /** Takes a completion: a value of a facet is chosen, anything else is searched for. */
  take(completion: Completion): void {
    this.noCompletions();
    if (completion.facet) {
      const query = choosing(this.finished(), completion.facet, [completion.text]);
      this.go({ ...query, words: "" }, "push");
    } else {
      this.submit(completion.text);
    }
  }

  /** Chooses a value of a facet, or no longer. */
  toggle(facet: string, value: string): void {
    const now = this.current.query.chosen[facet] ?? [];
    const values = now.includes(value) ? now.filter((one) => one !== value) : [...now, value];
    this.choose(facet, values);
  }

  /** Chooses these values of a facet and no others. */
  choose(facet: string, values: readonly string[]): void {
    this.go(choosing(this.finished(), facet, values), "push");
  }

  /** Chooses a range of a number or date; an empty end is open. */
  range(facet: string, from: string, to: string): void {
    this.choose(facet, from || to ? [`${from}..${to}`] : []);
  }

  sort(name: string | undefined): void {
    this.go({ ...this.finished(), sort: name, page: 1 }, "push");
  }

  page(number: number): void {
    this.go({ ...this.finished(), page: number }, "push");
  }

  /** Takes back all choices in facets. */
  clear(): void {
    this.go({ ...this.finished(), chosen: {}, page: 1 }, "push");
  }

  /** Tells the service that a result of the latest answer was opened. */
  opened(key: string): void {
    const { answer } = this.current;
    const at = answer?.results.findIndex((result) => result.key === key) ?? -1;
    if (answer?.id && at >= 0) this.client.chosen(answer.id, key, at + 1);
  }

  /** Values of a facet by their beginning. */
  find(facet: string, begins: string): Promise<Facet> {
    return this.client.facet(facet, begins, this.current.query);
  }

  /** The completions are no longer wanted. */
  noCompletions(): void {
    clearTimeout(this.timer);
    this.completing?.abort();
    if (this.current.completions.length) this.change({ completions: [] });
  }

  private withWords(words: string): Query {
    return { ...this.finished(), words, page: 1 };
  }

  /** What is asked, with all words taken for finished. */
  private finished(): Query {
    const { typing: _, ...query } = this.current.query;
    return query;
  }

  private ofAddress(): Query {
    return fromParameters(new URLSearchParams(window.location.search), this.usual);
  }

  private go(query: Query, history: "push" | "replace"): void {
    if (this.options.address) {
      // What every search of the page has need not stand in its address.
      const told = toParameters({
        ...query,
        typing: false,
        more: undefined,
        size: undefined,
      }).toString();
      const address = `${window.location.pathname}${told ? `?${told}` : ""}${window.location.hash}`;
      if (history === "push") window.history.pushState(null, "", address);
      else window.history.replaceState(null, "", address);
    }
    this.ask(query);
  }

  private ask(query: Query): void {
    clearTimeout(this.timer);
    clearTimeout(this.settling);
    this.searching?.abort();
    const mine = new AbortController();
    this.searching = mine;
    this.change({ query, typed: query.words, loading: true });
    this.client.search(query, mine.signal).then(
      (answer) => {
        this.unlessStale(mine, { answer, problem: undefined });
        if (query.typing && this.searching === mine) this.settle(answer.id);
      },
      (error) =>
        this.unlessStale(mine, {
          problem:
            error instanceof SearchProblem
              ? error
              : new SearchProblem(0, { detail: String(error) }),
        }),
    );
  }

  /** Answers may overtake one another: only the last question counts. */
  private unlessStale(mine: AbortController, change: Partial<SearchState<Fields>>): void {
    if (this.searching === mine && !mine.signal.aborted) this.change({ ...change, loading: false });
  }

  /** Whoever looks at results for a while has searched for the words, also without saying so. */
  private settle(answer: string | undefined): void {
    clearTimeout(this.settling);
    if (answer) this.settling = setTimeout(() => this.client.chosen(answer), this.meant);
  }

  private async complete(text: string): Promise<void> {
    this.completing?.abort();
    const mine = new AbortController();
    this.completing = mine;
    const completions = text.trim()
      ? await this.client.suggest(text, 8, mine.signal).catch(() => [])
      : [];
    if (this.completing === mine && !mine.signal.aborted) this.change({ completions });
  }

  private change(change: Partial<SearchState<Fields>>): void {
    this.current = { ...this.current, ...change };
    for (const listener of this.listeners) listener();
  }
}
