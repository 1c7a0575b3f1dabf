import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, fireEvent, render, screen, waitFor } from "@testing-library/react";
import axe from "axe-core";
import { MemoryRouter } from "react-router";
import { afterEach, expect, test, vi } from "vitest";
import type { SearchAnswer } from "../api";
import { escapeHtml, unescapeHtml } from "../parts/marked";
import { queryOf, SearchPage } from "./search";

const ANSWER: SearchAnswer = {
  total: { count: 41, exact: true },
  results: [
    {
      key: "QB-00017",
      score: 3.2,
      fields: { name: "Shade <b>fern</b>", latin_name: "Asplenium umbrosa", height_cm: 30 },
      link: "https://plants.example/QB-00017",
      highlights: { name: ["<mark>Shade</mark> &lt;b&gt;<mark>fern</mark>&lt;/b&gt;"] },
    },
  ],
  facets: {
    family: {
      title: "Family",
      values: [
        { value: "Aspleniaceae", label: "Spleenworts", count: 12, chosen: true },
        { value: "Rosaceae", label: "Rosaceae", count: 3, chosen: false },
      ],
      more: true,
      searchable: true,
    },
  },
  chosen: [{ facet: "family", value: "Aspleniaceae", label: "Spleenworts", remove: "?q=fern" }],
  page: 1,
  pages: 3,
  asOf: { position: "j:9", time: "2026-05-04T10:15:30.123Z", edition: 1 },
  millis: 1.8,
  card: { title: "name", subtitle: "latin_name" },
};

const EXPLAINED = {
  what: "score of 'QB-00017'",
  value: 3.2,
  matched: true,
  how: "PRODUCT",
  parts: [{ what: "relevance", value: 3.2, matched: true, parts: [] }],
};

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

function show(asked: string[]) {
  vi.stubGlobal("fetch", async (path: string) => {
    if (path.includes("/suggest")) {
      return new Response(JSON.stringify({ suggestions: [{ text: "Shade fern" }] }));
    }
    if (path.includes("/explain")) return new Response(JSON.stringify(EXPLAINED));
    if (path.includes("/facets/family?begins=ros")) {
      return new Response(
        JSON.stringify({
          title: "Family",
          values: [{ value: "Rosmarinaceae", label: "Rosmarinaceae", count: 1, chosen: false }],
          more: false,
          searchable: true,
        }),
      );
    }
    asked.push(path);
    const body = path.startsWith("/api/endpoints")
      ? [{ name: "plant-search", index: "plants", sorts: { best: {}, newest: {} }, facets: {} }]
      : ANSWER;
    return new Response(JSON.stringify(body), { status: 200 });
  });
  return render(
    <QueryClientProvider client={new QueryClient()}>
      <MemoryRouter initialEntries={["/console/search?q=shade+fern&family=Aspleniaceae"]}>
        <SearchPage />
      </MemoryRouter>
    </QueryClientProvider>,
  );
}

test("values of the database never become markup, and only the service's marks are marked", async () => {
  const { container } = show([]);
  await screen.findByText("41 results");
  const title = container.querySelector("ol h2");
  expect(title?.textContent).toBe("Shade <b>fern</b>");
  expect([...(title?.querySelectorAll("mark") ?? [])].map((m) => m.textContent)).toEqual([
    "Shade",
    "fern",
  ]);
  expect(title?.querySelector("b")).toBeNull();
  expect(title?.querySelector("a")?.getAttribute("href")).toBe("https://plants.example/QB-00017");
  expect(container.querySelector("ol em")?.textContent).toBe("Asplenium umbrosa");
});

test("choosing and taking away a facet value asks the endpoint for it", async () => {
  const asked: string[] = [];
  show(asked);
  fireEvent.click(await screen.findByLabelText(/Rosaceae/));
  await waitFor(() => expect(asked.at(-1)).toContain("family=Aspleniaceae&family=Rosaceae"));
  fireEvent.click(screen.getByRole("button", { name: /Spleenworts/ }));
  await waitFor(() => expect(asked.at(-1)).not.toContain("Aspleniaceae"));
});

test("a score tells how it came about, and a filter is asked for when it is finished", async () => {
  const asked: string[] = [];
  show(asked);
  fireEvent.click(await screen.findByRole("button", { name: "score 3.20" }));
  await screen.findByText("relevance");
  const filter = screen.getByLabelText("Filter");
  fireEvent.change(filter, { target: { value: "height_cm < 50" } });
  expect(asked.at(-1)).not.toContain("where");
  fireEvent.blur(filter);
  await waitFor(() => expect(asked.at(-1)).toContain("where=height_cm+%3C+50"));
});

test("a facet with more values than are shown can be searched", async () => {
  show([]);
  fireEvent.change(await screen.findByLabelText("Find in Family"), { target: { value: "ros" } });
  await screen.findByLabelText(/Rosmarinaceae/);
  expect(screen.queryByLabelText(/Rosaceae/)).toBeNull();
});

test("the page passes axe", async () => {
  const { container } = show([]);
  await screen.findByText("41 results");
  // Colours are not computed here; the end-to-end test looks at them in a browser.
  const found = await axe.run(container, { rules: { "color-contrast": { enabled: false } } });
  expect(found.violations.map((v) => `${v.id}: ${v.nodes[0]?.html}`)).toEqual([]);
});

test("the address becomes the endpoint's parameters", () => {
  expect(queryOf(new URLSearchParams("endpoint=x&index=y&q=fern&page=2"))).toBe(
    "q=fern&page=2&typing=true",
  );
  expect(queryOf(new URLSearchParams("endpoint=x&family=A&family=B"))).toBe("family=A&family=B");
});

test("escaping and reading back are inverse", () => {
  for (const text of ["<b>&amp;", "a \"quoted\" 'word'", "é 日本 &#39;"]) {
    expect(unescapeHtml(escapeHtml(text))).toBe(text);
  }
});
