import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, render, screen } from "@testing-library/react";
import axe from "axe-core";
import { afterEach, expect, test, vi } from "vitest";
import type { SearchNode, StoreView } from "../api";
import { NodesPage } from "./nodes";

const NODES: SearchNode[] = [
  {
    name: "fern-house",
    state: "here",
    since: "2026-05-04T10:00:00Z",
    seen: new Date().toISOString(),
    problem: "the store cannot be reached",
    editions: [
      { index: "plants", edition: 3, trueAt: "2026-05-04T10:15:30Z", bytes: 2e6, lagMillis: 240 },
      { index: "tools", edition: 1, bytes: 1e5 },
    ],
  },
  {
    name: "rose-walk",
    state: "away",
    since: "2026-05-04T10:00:00Z",
    seen: "2026-05-04T10:10:00Z",
    editions: [],
  },
];

const STORE: StoreView = {
  place: "/srv/mnemex-store",
  role: "builder",
  turn: 4,
  traffic: { requests: 1234, readBytes: 0, writtenBytes: 5e6 },
  editions: [
    {
      index: "plants",
      edition: 3,
      live: true,
      written: "2026-05-04T10:15:30Z",
      files: 12,
      bytes: 2e6,
    },
  ],
};

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

function show(nodes: SearchNode[], store: StoreView) {
  vi.stubGlobal(
    "fetch",
    async (path: string) =>
      new Response(JSON.stringify(path.startsWith("/api/nodes") ? nodes : store)),
  );
  return render(
    <QueryClientProvider client={new QueryClient()}>
      <NodesPage />
    </QueryClientProvider>,
  ).container;
}

test("each edition of each node has a row, and what is wrong is said", async () => {
  const page = show(NODES, STORE);
  expect(await screen.findByText(/^1 of 2 machines can answer searches/)).toBeTruthy();
  const rows = screen
    .getAllByRole("row")
    .map((row) => [...row.querySelectorAll("td")].map((cell) => cell.textContent));
  expect(rows).toContainEqual(
    expect.arrayContaining(["fern-house", "here", "plants", "3", "2.0 MB", "240 ms"]),
  );
  expect(rows).toContainEqual(expect.arrayContaining(["fern-house", "here", "tools", "1", ""]));
  expect(
    rows.some((row) => row[0] === "rose-walk" && row[1]?.startsWith("away, last heard from")),
  ).toBe(true);
  expect(screen.getByText("fern-house: the store cannot be reached")).toBeTruthy();
  expect(await screen.findByText("/srv/mnemex-store")).toBeTruthy();
  const found = await axe.run(page, { rules: { "color-contrast": { enabled: false } } });
  expect(found.violations.map((v) => `${v.id}: ${v.nodes[0]?.html}`)).toEqual([]);
});

test("without nodes and store it says how there would be some", async () => {
  show([], { editions: [] });
  expect(await screen.findByText(/mnemex.node.builder/)).toBeTruthy();
  expect(await screen.findByText(/Nothing is published/)).toBeTruthy();
});
