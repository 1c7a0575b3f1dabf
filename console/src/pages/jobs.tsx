import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Job } from "../api";
import { count } from "../format";
import { Button } from "../parts/button";
import { Asking, ErrorNotice } from "../parts/notice";
import { Ago, At } from "../parts/time";

const REFRESHED_MILLIS = 1000;

/** What takes long: how far it is, and how it ended. */
export function JobsPage() {
  const jobs = useQuery({
    queryKey: ["jobs"],
    queryFn: api.jobs,
    refetchInterval: REFRESHED_MILLIS,
  });
  const [open, setOpen] = useState<number>();
  if (jobs.error) return <ErrorNotice error={jobs.error} />;
  if (!jobs.data) return <Asking />;
  const running = jobs.data.filter((job) => job.ended === undefined);
  return (
    <div className="flex flex-col gap-4">
      <div>
        <h1 className="text-2xl font-semibold tracking-tight">
          <Trans>Jobs</Trans>
        </h1>
        <p className="text-quiet">
          {running.length === 0
            ? t`Nothing is running. Fills, audits, comparisons, scores, compactions, imports, exports, backups and restores are listed here.`
            : t`${count(running.length)} ${plural(running.length, { one: "job", other: "jobs" })} running or waiting.`}
        </p>
      </div>
      {jobs.data.length > 0 && (
        <ul className="rounded border border-line bg-surface">
          {jobs.data.map((job) => (
            <li key={job.id} className="border-b border-line px-4 py-2 last:border-0">
              <Line
                job={job}
                isOpen={open === job.id}
                onOpen={() => setOpen(open === job.id ? undefined : job.id)}
              />
              {open === job.id && <Details id={job.id} />}
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}

const TONES: Record<string, string> = {
  failed: "text-bad",
  interrupted: "text-warn",
  cancelled: "text-warn",
  running: "text-accent font-semibold",
};

function Line(props: { job: Job; isOpen: boolean; onOpen: () => void }) {
  const { job } = props;
  const queries = useQueryClient();
  const cancel = useMutation({
    mutationFn: () => api.cancelJob(job.id),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["jobs"] }),
  });
  return (
    <>
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1">
        <button
          type="button"
          className="min-w-0 text-left"
          aria-expanded={props.isOpen}
          onClick={props.onOpen}
        >
          <span className="text-quiet">{job.id}</span>{" "}
          <strong>
            {job.kind} {job.about}
          </strong>{" "}
          <span className="text-quiet">{job.detail}</span>
        </button>
        <span className={TONES[job.state] ?? "text-quiet"}>{job.state}</span>
        <span className="min-w-0 grow">{job.message ?? <Progress job={job} />}</span>
        <span className="text-sm text-quiet">
          <Ago iso={job.started} />
        </span>
        {job.ended === undefined && job.kind !== "fill" && job.kind !== "restore" && (
          <Button changes onClick={() => cancel.mutate()} busy={cancel.isPending}>
            <Trans>Cancel</Trans>
          </Button>
        )}
      </div>
      {cancel.error && <ErrorNotice error={cancel.error} />}
    </>
  );
}

function Progress({ job }: { job: Job }) {
  return (
    <span className="flex flex-wrap items-center gap-3">
      {job.total !== undefined && job.total > 0 && (
        <progress
          className="h-2 w-40 appearance-none overflow-hidden rounded bg-wash [&::-moz-progress-bar]:bg-accent [&::-webkit-progress-bar]:bg-wash [&::-webkit-progress-value]:bg-accent"
          max={job.total}
          value={job.done}
          aria-label={`${job.kind} ${job.about}`}
        />
      )}
      <span className="tabular-nums text-quiet">
        {count(job.done)}
        {job.total !== undefined && t` of ${count(job.total)}`}
        {job.perSecond !== undefined && t`, ${count(Math.round(job.perSecond))} a second`}
        {job.secondsLeft !== undefined &&
          t`, ${count(job.secondsLeft)} ${plural(job.secondsLeft, { one: "second", other: "seconds" })} left`}
      </span>
    </span>
  );
}

function Details({ id }: { id: number }) {
  const job = useQuery({
    queryKey: ["jobs", id],
    queryFn: () => api.job(id),
    refetchInterval: (query) =>
      query.state.data?.ended === undefined ? REFRESHED_MILLIS : undefined,
  });
  if (job.error) return <ErrorNotice error={job.error} />;
  if (!job.data) return <Asking />;
  const { started, ended, log = [], result } = job.data;
  return (
    <div className="mt-1 rounded bg-ground px-3 py-2">
      <p className="text-quiet">
        <Trans>
          Begun <At iso={started} />
          {ended && (
            <Trans>
              , ended <At iso={ended} />
            </Trans>
          )}
          .
        </Trans>
      </p>
      {log.length > 0 && (
        <ol>
          {log.map((line) => (
            <li key={line.at + line.text}>
              <span className="text-quiet">
                <At iso={line.at} />
              </span>{" "}
              {line.text}
            </li>
          ))}
        </ol>
      )}
      {result !== undefined && (
        <details>
          <summary className="cursor-pointer">
            <Trans>What it found, as JSON</Trans>
          </summary>
          <pre
            className="mt-1 max-h-80 overflow-auto font-mono text-sm"
            // biome-ignore lint/a11y/noNoninteractiveTabindex: it is scrolled by keyboard
            tabIndex={0}
          >
            {JSON.stringify(result, null, 2)}
          </pre>
        </details>
      )}
    </div>
  );
}
