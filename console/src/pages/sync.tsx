import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Pause, Play } from "lucide-react";
import { lazy, Suspense } from "react";
import { api, type IndexStatus } from "../api";
import { count, millis } from "../format";
import { AuditLine } from "../parts/auditLine";
import { Button } from "../parts/button";
import { NoIndexYet, useChosenIndex } from "../parts/chosenIndex";
import { LastChanges } from "../parts/lastChanges";
import { ErrorNotice, Notice, Waiting } from "../parts/notice";
import { useOverview } from "../parts/overview";
import { At } from "../parts/time";

const FeedCharts = lazy(() => import("../parts/feedCharts"));

/** How one index follows its source: lag, rate, changes, quarantine, audits. */
export function SyncPage() {
  const { overview, connected } = useOverview();
  const index = useChosenIndex(overview?.indexes ?? []);
  if (!overview) return <Waiting connected={connected} />;
  if (!index) return <NoIndexYet />;
  return (
    <div className="flex flex-col gap-5">
      <div className="flex flex-wrap items-center gap-3">
        <h1 className="text-2xl font-semibold tracking-tight">
          <Trans>
            {index.name} follows {index.source}
          </Trans>
        </h1>
        {(index.live || index.next) && <FeedButtons index={index} />}
      </div>
      <State index={index} />
      <Suspense
        fallback={
          <p className="text-quiet">
            <Trans>Loading the charts …</Trans>
          </p>
        }
      >
        <FeedCharts index={index.name} />
      </Suspense>
      <LastChanges changes={overview.changes.filter((c) => c.index === index.name).slice(0, 10)} />
      <Quarantine index={index.name} waiting={index.live?.quarantined ?? 0} />
      <Audits index={index.name} />
    </div>
  );
}

function FeedButtons({ index }: { index: IndexStatus }) {
  const act = useMutation({
    mutationFn: (what: "pause" | "resume" | "agree") => api.feed(index.name, what),
  });
  return (
    <div className="ml-auto flex items-center gap-2">
      {act.error && <ErrorNotice error={act.error} />}
      <Button
        changes
        onClick={() => act.mutate(index.paused ? "resume" : "pause")}
        busy={act.isPending}
      >
        {index.paused ? <Play size={15} aria-hidden /> : <Pause size={15} aria-hidden />}
        {index.paused ? t`Go on` : t`Pause`}
      </Button>
      {(index.held || index.live?.phase === "HELD") && (
        <Button changes onClick={() => act.mutate("agree")} busy={act.isPending}>
          <Trans>Allow the held removals</Trans>
        </Button>
      )}
    </div>
  );
}

function State({ index }: { index: IndexStatus }) {
  const edition = index.live ?? index.next;
  const problem = index.held ?? edition?.problem;
  if (!edition && index.problem) return <Notice tone="bad">{index.problem}</Notice>;
  return (
    <>
      <p>
        {index.paused
          ? t`The feed is paused. Searches use the data indexed so far, and the source keeps its changes.`
          : index.fresh
            ? t`Up to date with its database.`
            : index.live
              ? t`Behind the database. Searches use the data indexed so far.`
              : t`Being built for the first time.`}
        {edition && (
          <span className="text-quiet">
            <Trans>
              {" "}
              {edition.position && <Trans>Position {edition.position}. </Trans>}
              {count(edition.changes)} records updated since the service started, lag{" "}
              {millis(edition.lagMedianMillis)} in the median, {millis(edition.lagP99Millis)} at the
              99th percentile.
            </Trans>
          </span>
        )}
      </p>
      {problem && <Notice tone="warn">{problem}</Notice>}
    </>
  );
}

function Quarantine({ index, waiting }: { index: string; waiting: number }) {
  const queries = useQueryClient();
  const records = useQuery({
    queryKey: ["quarantine", index, waiting],
    queryFn: () => api.quarantine(index),
    refetchInterval: 5000,
  });
  const act = useMutation({
    mutationFn: (work: () => Promise<void>) => work(),
    onSettled: () => queries.invalidateQueries({ queryKey: ["quarantine", index] }),
  });
  return (
    <section aria-labelledby="quarantine">
      <div className="mb-1.5 flex items-center gap-3">
        <h2 id="quarantine" className="text-lg font-semibold">
          <Trans>Quarantine</Trans>
        </h2>
        {(records.data?.length ?? 0) > 0 && (
          <Button changes onClick={() => act.mutate(() => api.retry(index))} busy={act.isPending}>
            <Trans>Retry all</Trans>
          </Button>
        )}
      </div>
      {records.error && <ErrorNotice error={records.error} />}
      {act.error && <ErrorNotice error={act.error} />}
      {records.data?.length === 0 && (
        <p className="text-quiet">
          <Trans>Quarantine is empty: every record could be read and mapped.</Trans>
        </p>
      )}
      {(records.data?.length ?? 0) > 0 && (
        <ul className="rounded border border-line bg-surface">
          {records.data?.map((record) => (
            <li
              key={record.recordKey}
              className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-line px-4 py-2 last:border-0"
            >
              <span className="font-semibold">{record.recordKey}</span>
              <span className={record.dismissed ? "text-quiet" : "text-warn"}>{record.reason}</span>
              <span className="ml-auto flex items-center gap-2">
                <span className="text-sm text-quiet">
                  <Trans>
                    {record.dismissed && t`dismissed, `}since <At iso={record.since} />
                  </Trans>
                </span>
                <Button
                  changes
                  onClick={() => act.mutate(() => api.retry(index, record.recordKey))}
                >
                  <Trans>Retry</Trans>
                </Button>
                {!record.dismissed && (
                  <Button
                    changes
                    onClick={() => act.mutate(() => api.dismiss(index, record.recordKey))}
                  >
                    <Trans>Dismiss</Trans>
                  </Button>
                )}
              </span>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

function Audits({ index }: { index: string }) {
  const audits = useQuery({
    queryKey: ["audits", index],
    queryFn: () => api.audits(index),
    refetchInterval: 10_000,
  });
  const earlier = audits.data?.slice(1, 8) ?? [];
  return (
    <section aria-labelledby="audits">
      <h2 id="audits" className="mb-1.5 text-lg font-semibold">
        <Trans>Audits</Trans>
      </h2>
      <div className="rounded border border-line bg-surface">
        <div className="-mt-px">
          <AuditLine index={index} />
        </div>
        {earlier.map((audit) => (
          <p key={audit.id} className="border-t border-line px-4 py-1.5 text-sm text-quiet">
            <At iso={audit.started} />: {audit.statement ?? audit.state}
          </p>
        ))}
      </div>
    </section>
  );
}
