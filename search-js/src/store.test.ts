import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { EndpointClient, SearchProblem } from "./client";
import { fromParameters, toParameters } from "./query";
import { SearchStore } from "./store";

/** Calls that wait for their answers, which may come in any order. */
class Calls {
  readonly asked: {
    path: string;
    body?: unknown;
    answer: (body: unknown, status?: number, more?: HeadersInit) => void;
  }[] = [];

  fetch = ((input: string, init: RequestInit) =>
    new Promise<Response>((resolve, reject) => {
      init.signal?.addEventListener("abort", () => reject(new DOMException("stop", "AbortError")));
      this.asked.push({
        path: input,
        body: init.body ? JSON.parse(String(init.body)) : undefined,
        answer: (body, status = 200, headers) =>
          resolve(new Response(JSON.stringify(body), { status, headers })),
      });
    })) as typeof fetch;

  last(part: string) {
    const found = this.asked.filter((one) => one.path.includes(part)).at(-1);
    if (!found) throw new Error(`${part} was not asked: ${this.asked.map((one) => one.path)}`);
    return found;
  }
}

const answer = (name: string) => ({ results: [{ key: name, fields: {} }], facets: {}, chosen: [] });
const settled = () => vi.advanceTimersByTimeAsync(0);

describe("a store", () => {
  let calls: Calls;
  let store: SearchStore;
  let end: () => void;

  beforeEach(() => {
    vi.useFakeTimers();
    window.history.replaceState(null, "", "/shop?q=rose&kind=Bulbs&page=2#there");
    calls = new Calls();
    const client = new EndpointClient({
      endpoint: "plants",
      service: "http://x/",
      fetch: calls.fetch,
    });
    store = new SearchStore(client, { address: true, usual: { more: { language: "de" } } });
    end = store.start();
  });

  afterEach(() => {
    end();
    vi.useRealTimers();
  });

  it("begins with the address, and asks with what every search has", async () => {
    expect(calls.asked[0]?.path).toBe(
      "http://x/search/plants?q=rose&kind=Bulbs&page=2&language=de",
    );
    expect(store.state().loading).toBe(true);
    calls.asked[0]?.answer(answer("a"));
    await settled();
    expect(store.state().answer?.results[0]?.key).toBe("a");
    expect(store.state().loading).toBe(false);
  });

  it("waits until no more is typed, and completes at once", async () => {
    store.type("f");
    await vi.advanceTimersByTimeAsync(100);
    store.type("fe");
    expect(calls.asked.filter((one) => one.path.includes("/suggest"))).toHaveLength(2);
    expect(calls.asked.filter((one) => one.path.includes("?q=fe&kind"))).toHaveLength(0);
    await vi.advanceTimersByTimeAsync(150);
    expect(calls.last("?q=fe&kind=Bulbs&typing=true&language").path).not.toContain("page");
    expect(window.location.search).toBe("?q=fe&kind=Bulbs");
    expect(window.location.hash).toBe("#there");
  });

  it("tells which result was opened, and which typed words were meant", async () => {
    store.type("fern");
    await vi.advanceTimersByTimeAsync(150);
    const typed = calls.last("q=fern");
    expect(typed.path).toContain("typing=true");
    expect(window.location.search).not.toContain("typing");
    typed.answer({ ...answer("a"), id: "T1" });
    await vi.advanceTimersByTimeAsync(1900);
    expect(calls.asked.some((one) => one.path.includes("/chosen"))).toBe(false);
    await vi.advanceTimersByTimeAsync(200);
    expect(calls.last("/chosen").body).toEqual({ id: "T1" });
    store.submit("moss");
    expect(calls.last("q=moss").path).not.toContain("typing");
    const many = { ...answer("a"), id: "S1" };
    calls.last("q=moss").answer({ ...many, results: [...many.results, { key: "b", fields: {} }] });
    await settled();
    store.opened("b");
    store.opened("elsewhere");
    expect(calls.last("/chosen").body).toEqual({ id: "S1", key: "b", position: 2 });
    await vi.advanceTimersByTimeAsync(5000);
    expect(calls.asked.filter((one) => one.path.includes("/chosen"))).toHaveLength(2);
  });

  it("drops answers that come too late", async () => {
    store.submit("one");
    const first = calls.last("q=one");
    store.submit("two");
    calls.last("q=two").answer(answer("two"));
    await settled();
    first.answer(answer("one"));
    await settled();
    expect(store.state().answer?.results[0]?.key).toBe("two");
    store.type("tw");
    const early = calls.last("/suggest?q=tw&");
    store.type("two");
    calls.last("/suggest?q=two&").answer({ suggestions: [{ text: "two", from: "word" }] });
    await settled();
    early.answer({ suggestions: [{ text: "twelve", from: "word" }] });
    await settled();
    expect(store.state().completions.map((one) => one.text)).toEqual(["two"]);
  });

  it("chooses, sorts, turns pages and goes back", async () => {
    const before = window.history.length;
    store.toggle("kind", "Seeds");
    expect(window.location.search).toBe("?q=rose&kind=Bulbs&kind=Seeds");
    store.toggle("kind", "Bulbs");
    store.range("price", "5", "");
    store.sort("cheapest");
    store.page(3);
    expect(window.location.search).toBe("?q=rose&kind=Seeds&price=5..&sort=cheapest&page=3");
    store.clear();
    expect(window.location.search).toBe("?q=rose&sort=cheapest");
    expect(window.history.length).toBe(before + 6);
    window.history.replaceState(null, "", "/shop?q=fern");
    window.dispatchEvent(new PopStateEvent("popstate"));
    expect(store.state().query.words).toBe("fern");
    expect(calls.last("q=fern").path).toContain("language=de");
  });

  it("takes completions: values of facets are chosen, others searched for", () => {
    store.take({ text: "Bulbs", marked: "Bulbs", from: "facet", facet: "kind" });
    expect(store.state().query).toMatchObject({ words: "", chosen: { kind: ["Bulbs"] } });
    store.take({ text: "rose walk", marked: "rose walk", from: "phrase" });
    expect(store.state().query.words).toBe("rose walk");
  });

  it("tells of refusals, tries a busy service again, and recovers", async () => {
    calls.asked[0]?.answer({}, 503, { "Retry-After": "2" });
    await vi.advanceTimersByTimeAsync(1900);
    expect(calls.asked).toHaveLength(1);
    await vi.advanceTimersByTimeAsync(200);
    expect(calls.asked).toHaveLength(2);
    calls.asked[1]?.answer({ detail: "no facet 'kind'" }, 400);
    await settled();
    expect(store.state().problem).toBeInstanceOf(SearchProblem);
    expect(store.state().problem?.message).toBe("no facet 'kind'");
    store.clear();
    calls.last("q=rose").answer(answer("a"));
    await settled();
    expect(store.state().problem).toBeUndefined();
  });
});

it("writes and reads addresses alike", () => {
  const query = {
    words: "a & b=c",
    chosen: { kind: ["x,y", "é"], "sized.up": ["1..2"] },
    sort: "newest",
    group: "family",
    page: 4,
  };
  expect(fromParameters(toParameters(query))).toEqual(query);
  expect(fromParameters(new URLSearchParams("page=-1&q="))).toMatchObject({ page: 1, words: "" });
});
