import { cleanup, fireEvent, render, screen, within } from "@testing-library/react";
import { afterEach, beforeEach, expect, it } from "vitest";
import { type Answer, EndpointClient } from "../client";
import { SearchStore } from "../store";
import { textsFor } from "../texts";
import {
  ChosenFilters,
  Facets,
  Messages,
  NoResultsHelp,
  Pages,
  RangeFacet,
  ResultCount,
  Results,
  SearchBox,
  SearchProvider,
} from ".";

const values = Array.from({ length: 8 }, (_, at) => ({
  value: `v${at}`,
  label: `Value ${at}`,
  count: 10 - at,
  chosen: at === 7,
}));
const ANSWER: Answer<Record<string, unknown>> = {
  id: "A1",
  asOf: { edition: 1 },
  card: { title: "name", subtitle: "latin" },
  chosen: [{ facet: "kind", value: "v7", label: "Value 7", remove: "" }],
  facets: {
    kind: { title: "Kind", values, more: true, searchable: true },
    price: { title: "Price", values: [], more: false, searchable: false },
  },
  millis: 1,
  page: 2,
  pages: 9,
  total: { count: 170, exact: true },
  didYouMean: "roses",
  curated: [{ curation: "c", rule: "r", message: "Open at ten", link: "https://x.example/" }],
  results: [
    {
      key: "a",
      score: 1,
      fields: { name: "Dog <rose>", latin: "Rosa canina" },
      highlights: {
        name: ["Dog &lt;<mark>rose</mark>&gt;"],
        notes: ["a <mark>rose</mark> …", "… of old"],
      },
      link: "https://x.example/a",
    },
  ],
};
let asked: URL[];
let told: unknown[];
let answer: typeof ANSWER;

function page() {
  const ask = (input: string, init: RequestInit) => {
    const url = new URL(input, "http://x");
    if (init.body) {
      told.push(JSON.parse(String(init.body)));
      return Promise.resolve(new Response(null, { status: 204 }));
    }
    asked.push(url);
    const body = url.pathname.endsWith("/suggest")
      ? {
          suggestions: [
            { text: "rose", marked: "<mark>ro</mark>se", from: "word" },
            { text: "Roses", marked: "<mark>Ro</mark>ses", from: "facet", facet: "kind" },
          ],
        }
      : url.pathname.includes("/facets/")
        ? { ...ANSWER.facets.kind, values: [{ ...values[0], label: "Found" }] }
        : answer;
    return Promise.resolve(new Response(JSON.stringify(body)));
  };
  const client = new EndpointClient({ endpoint: "plants", fetch: ask as typeof fetch });
  const store = new SearchStore(client, { wait: 0 });
  render(
    <SearchProvider store={store} texts={textsFor(["en"]).texts}>
      <SearchBox />
      <ChosenFilters />
      <ResultCount />
      <Messages />
      <NoResultsHelp />
      <Facets />
      <RangeFacet name="price" />
      <Results />
      <Pages />
    </SearchProvider>,
  );
}

beforeEach(() => {
  asked = [];
  told = [];
  answer = ANSWER;
});
afterEach(cleanup);

const lastSearch = () => asked.filter((url) => url.pathname === "/search/plants").at(-1)?.search;

it("shows results by the roles of their fields, escaped and marked", async () => {
  page();
  const result = await screen.findByRole("article");
  expect(within(result).getByRole("link").textContent).toBe("Dog <rose>");
  expect(within(result).getByRole("link").querySelector("mark")?.textContent).toBe("rose");
  expect(result.textContent).toContain("Rosa canina");
  expect(result.textContent).toContain("a rose … of old");
  expect(screen.getByRole("status").textContent).toBe("170 results");
  expect(screen.getByRole("link", { name: "Open at ten" })).toBeTruthy();
  fireEvent.click(within(result).getByText("Rosa canina"));
  expect(told).toEqual([]);
  fireEvent.click(within(result).getByRole("link").querySelector("mark") as Element);
  expect(told).toEqual([{ id: "A1", key: "a", position: 1 }]);
});

it("completes by keyboard, as a combobox does", async () => {
  page();
  const box = screen.getByRole("combobox");
  fireEvent.change(box, { target: { value: "ro" } });
  expect((await screen.findAllByRole("option")).map((one) => one.textContent)).toEqual([
    "rose",
    "RosesKind",
  ]);
  expect(box.getAttribute("aria-expanded")).toBe("true");
  fireEvent.keyDown(box, { key: "ArrowDown" });
  fireEvent.keyDown(box, { key: "ArrowDown" });
  const options = screen.getAllByRole("option");
  expect(box.getAttribute("aria-activedescendant")).toBe(options[1]?.id);
  expect(options[1]?.getAttribute("aria-selected")).toBe("true");
  // Beyond the last is the box, then the first again.
  fireEvent.keyDown(box, { key: "ArrowDown" });
  expect(box.getAttribute("aria-activedescendant")).toBeNull();
  fireEvent.keyDown(box, { key: "ArrowUp" });
  fireEvent.submit(screen.getByRole("search"));
  expect(lastSearch()).toBe("?kind=Roses");
  fireEvent.change(box, { target: { value: "ro" } });
  await screen.findAllByRole("option");
  fireEvent.keyDown(box, { key: "Escape" });
  expect(screen.queryAllByRole("option")).toHaveLength(0);
  fireEvent.submit(screen.getByRole("search"));
  expect(lastSearch()).toContain("q=ro");
});

it("shows few values of a facet with those that are chosen, more on request, others by name", async () => {
  page();
  const facet = await screen.findByRole("group", { name: "Kind" });
  expect(within(facet).getAllByRole("checkbox")).toHaveLength(7);
  fireEvent.click(within(facet).getByRole("button", { name: "Show more" }));
  expect(within(facet).getAllByRole("checkbox")).toHaveLength(8);
  fireEvent.click(within(facet).getByLabelText(/Value 2/));
  expect(lastSearch()).toBe("?kind=v2");
  fireEvent.change(within(facet).getByRole("searchbox"), { target: { value: "fo" } });
  await within(facet).findByLabelText(/Found/);
  expect(asked.at(-1)?.search).toContain("begins=fo");
});

it("chooses ranges, takes back choices, turns pages and offers help", async () => {
  page();
  await screen.findByRole("article");
  const range = screen.getByRole("group", { name: "Price" });
  fireEvent.change(within(range).getByLabelText("from"), { target: { value: "5" } });
  fireEvent.click(within(range).getByRole("button"));
  expect(lastSearch()).toBe("?price=5..");
  fireEvent.click(screen.getByRole("button", { name: "Page 4" }));
  expect(lastSearch()).toBe("?price=5..&page=4");
  expect(screen.getByRole("button", { name: "Page 2" }).getAttribute("aria-current")).toBe("page");
  fireEvent.click(screen.getByRole("button", { name: "Remove Value 7" }));
  fireEvent.click(screen.getByRole("button", { name: "roses" }));
  expect(lastSearch()).toContain("q=roses");
});

it("speaks the languages that it has texts for", () => {
  expect(textsFor(["sv", "fr-CA", "en"]).texts.results(1234, true)).toMatch(/^1.234 résultats$/);
  expect(textsFor(["de-AT"]).texts.results(2, false)).toBe("mehr als 2 Treffer");
  expect(textsFor([]).language).toBe("en");
});
