import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Tabs } from "radix-ui";
import { lazy, Suspense } from "react";
import { useSearchParams } from "react-router";
import { api, type Endpoint } from "../api";
import { count, decimal, percent } from "../format";
import { Button } from "../parts/button";
import { NoEndpointYet, useChosenEndpoint } from "../parts/chosenIndex";
import { InsightTable, REPORTS } from "../parts/insightTable";
import { Asking, ErrorNotice } from "../parts/notice";
import { Pick } from "../parts/pick";
import { SuggestedGrades } from "../parts/suggestedGrades";
import { Views } from "../parts/views";

const InsightChart = lazy(() => import("../parts/insightChart"));

const SPANS = [
  { value: "1", label: t`last day` },
  { value: "7", label: t`last 7 days` },
  { value: "30", label: t`last 30 days` },
  { value: "90", label: t`last 90 days` },
];

const GRADES = { value: "grades", title: t`Suggested grades` };
const REFRESHED_MILLIS = 10_000;

/** What people search for, find and open at an endpoint, and what to do about it. */
export function InsightsPage() {
  const [params, setParams] = useSearchParams();
  const { endpoint, endpoints, known, error } = useChosenEndpoint();
  const days = Number(params.get("days") ?? 7);
  const report = params.get("report") ?? "frequent";
  const change = (name: string, value: string) => {
    const next = new URLSearchParams(params);
    next.set(name, value);
    setParams(next, { replace: true });
  };
  if (error) return <ErrorNotice error={error} />;
  if (!known) return <Asking />;
  if (!endpoint) return <NoEndpointYet />;
  return (
    <div className="flex flex-col gap-5">
      <div className="flex flex-wrap items-center gap-3">
        <h1 className="text-2xl font-semibold tracking-tight">
          <Trans>Searches of {endpoint.name}</Trans>
        </h1>
        {endpoints.length > 1 && (
          <Pick
            label={t`Endpoint`}
            value={endpoint.name}
            options={endpoints.map((one) => ({ value: one.name, label: one.name }))}
            onPick={(name) => change("endpoint", name)}
          />
        )}
        <Pick
          label={t`Time`}
          value={String(days)}
          options={SPANS}
          onPick={(span) => change("days", span)}
        />
      </div>
      <Together endpoint={endpoint.name} days={days} />
      <Tabs.Root
        value={report}
        onValueChange={(value) => change("report", value)}
        className="rounded border border-line bg-surface px-4 py-3"
      >
        <Views label={t`Reports`} views={[...REPORTS, GRADES]} />
        <Tabs.Content value={report}>
          {report === GRADES.value ? (
            <SuggestedGrades endpoint={endpoint} days={days} />
          ) : (
            <Report key={report} endpoint={endpoint} report={report} days={days} />
          )}
        </Tabs.Content>
      </Tabs.Root>
      <UsedFacets endpoint={endpoint} days={days} />
    </div>
  );
}

/** All searches of the time together, and over it. */
function Together({ endpoint, days }: { endpoint: string; days: number }) {
  const all = useQuery({
    queryKey: ["searches by endpoint", days],
    queryFn: () => api.searchesByEndpoint(days),
    refetchInterval: REFRESHED_MILLIS,
    placeholderData: keepPreviousData,
  });
  const times = useQuery({
    queryKey: ["searches over time", endpoint, days],
    queryFn: () => api.searchesOverTime(endpoint, days),
    refetchInterval: REFRESHED_MILLIS,
    placeholderData: keepPreviousData,
  });
  const error = all.error ?? times.error;
  if (error) return <ErrorNotice error={error} />;
  const mine = all.data?.find((one) => one.endpoint === endpoint);
  if (all.data && !mine?.searches) {
    return (
      <p className="text-quiet">
        <Trans>
          Nobody searched here in this time. What is tried in this console does not count.
        </Trans>
      </p>
    );
  }
  return (
    <section className="rounded border border-line bg-surface px-4 py-3" aria-label={t`Over time`}>
      {mine && (
        <p className="mb-1">
          <strong>{t`${count(mine.searches)} ${plural(mine.searches, { one: "search", other: "searches" })}`}</strong>
          <span className="text-quiet">
            <Trans>
              : {percent(mine.withoutResults, mine.searches)} found nothing, a result was opened
              after {percent(mine.opened, mine.searches)}, {decimal(mine.meanMillis)} ms on average.
              Nothing says who searched.
            </Trans>
          </span>
        </p>
      )}
      {(times.data?.length ?? 0) > 1 && (
        <Suspense
          fallback={
            <p className="text-quiet">
              <Trans>Loading the chart …</Trans>
            </p>
          }
        >
          <InsightChart times={times.data ?? []} />
        </Suspense>
      )}
    </section>
  );
}

function Report(props: { endpoint: Endpoint; report: string; days: number }) {
  const { endpoint, report, days } = props;
  const rows = useQuery({
    queryKey: ["insights", endpoint.name, report, days],
    queryFn: () => api.insights(endpoint.name, report, days),
    refetchInterval: REFRESHED_MILLIS,
    placeholderData: keepPreviousData,
  });
  if (rows.error) return <ErrorNotice error={rows.error} />;
  if (!rows.data)
    return (
      <p className="mt-2 text-quiet">
        <Trans>Asking the service …</Trans>
      </p>
    );
  return (
    <>
      <InsightTable report={report} rows={rows.data} endpoint={endpoint} />
      {rows.data.length > 0 && (
        <div className="mt-3">
          <Button onClick={() => save(endpoint.name, report, days)}>
            <Trans>Save as CSV</Trans>
          </Button>
        </div>
      )}
    </>
  );
}

async function save(endpoint: string, report: string, days: number) {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(await api.insightsAsCsv(endpoint, report, days));
  link.download = `${endpoint}-${report}.csv`;
  link.click();
  URL.revokeObjectURL(link.href);
}

function UsedFacets({ endpoint, days }: { endpoint: Endpoint; days: number }) {
  const used = useQuery({
    queryKey: ["used facets", endpoint.name, days],
    queryFn: () => api.usedFacets(endpoint.name, days),
    refetchInterval: REFRESHED_MILLIS,
  });
  const most = used.data?.[0]?.searches ?? 0;
  if (most === 0) return null;
  const unused = Object.keys(endpoint.facets).filter(
    (name) => !used.data?.some((facet) => facet.facet === name),
  );
  return (
    <section className="rounded border border-line bg-surface px-4 py-3" aria-label={t`Facets`}>
      <h2 className="text-lg font-semibold">
        <Trans>Facets that people choose from</Trans>
      </h2>
      <ul className="mt-1 grid gap-x-6 gap-y-1 sm:grid-cols-2">
        {used.data?.map((facet) => (
          <li
            key={facet.facet}
            className="grid grid-cols-[7rem_minmax(0,1fr)_3.5rem] items-center gap-2"
          >
            <span className="truncate">{facet.facet}</span>
            <span
              className="h-2 rounded bg-accent"
              style={{ width: `${(100 * facet.searches) / most}%` }}
            />
            <span className="text-right tabular-nums">{count(facet.searches)}</span>
          </li>
        ))}
      </ul>
      {unused.length > 0 && (
        <p className="mt-2 text-quiet">
          <Trans>Never chosen from: {unused.join(", ")}</Trans>
        </p>
      )}
    </section>
  );
}
