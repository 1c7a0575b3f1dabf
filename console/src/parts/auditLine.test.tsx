import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, expect, test, vi } from "vitest";
import type { Audit } from "../api";
import { AuditLine } from "./auditLine";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

test("an audit is begun, awaited, and what differs is named", async () => {
  const audits: Audit[] = [];
  vi.stubGlobal("fetch", async (path: string, init?: RequestInit) => {
    expect(path).toBe("/api/indexes/plants/audits");
    if (init?.method === "POST") {
      audits.unshift({ id: 1, started: "2026-05-04T10:15:30Z", state: "running" });
      return new Response(JSON.stringify(audits[0]), { status: 202 });
    }
    const answer = new Response(JSON.stringify(audits));
    if (audits[0]?.state === "running") {
      audits[0] = {
        ...audits[0],
        state: "done",
        clean: false,
        statement: "40 of 41 records agree; 1 missing",
        result: {
          index: "plants",
          edition: 1,
          started: "2026-05-04T10:15:30Z",
          records: 41,
          agreeing: 40,
          missing: ["QB-00005"],
          stale: [],
          extra: [],
          needless: [],
          quarantined: 0,
          repaired: false,
          millis: 12,
        },
      };
    }
    return answer;
  });
  render(
    <QueryClientProvider client={new QueryClient()}>
      <AuditLine index="plants" />
    </QueryClientProvider>,
  );
  await screen.findByText(/Never audited/);
  fireEvent.click(screen.getByRole("button", { name: "Audit now" }));
  await screen.findByText(/Comparing every record/);
  await screen.findByText(/40 of 41 records agree; 1 missing/);
  await screen.findByText("QB-00005");
});
