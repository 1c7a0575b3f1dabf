import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import type { Change, IndexChange } from "../api";
import { millis } from "../format";
import { type Column, DataTable } from "./dataTable";
import { JustAt } from "./time";

const OUTCOMES: Record<Change["outcome"], { word: string; tone: string }> = {
  INDEXED: { word: t`indexed`, tone: "text-accent" },
  REMOVED: { word: t`removed`, tone: "text-ink" },
  UNCHANGED: { word: t`unchanged`, tone: "text-quiet" },
  QUARANTINED: { word: t`quarantined`, tone: "text-warn" },
};

const COLUMNS: Column<IndexChange>[] = [
  {
    title: t`Committed`,
    value: ({ change }) => change.committed,
    cell: ({ change }) => <JustAt iso={change.committed} />,
    className: "whitespace-nowrap",
  },
  {
    title: t`Record`,
    value: ({ change }) => change.key,
    className: "font-semibold whitespace-nowrap",
  },
  { title: t`Changed in`, value: ({ change }) => change.table },
  {
    title: t`Outcome`,
    value: ({ change }) => OUTCOMES[change.outcome].word,
    cell: ({ change }) => (
      <span className={OUTCOMES[change.outcome].tone}>{OUTCOMES[change.outcome].word}</span>
    ),
  },
  {
    title: t`Visible after`,
    value: ({ lagMillis }) => lagMillis,
    cell: ({ lagMillis }) => millis(lagMillis),
    right: true,
    className: "whitespace-nowrap",
  },
  { title: t`Its way`, value: ({ change }) => way(change), cell: Way },
];

/** The last changes with their way through the feed, newest first. */
export function LastChanges({ changes }: { changes: IndexChange[] }) {
  return (
    <section aria-labelledby="last-changes">
      <div className="mb-1.5 flex flex-wrap items-baseline justify-between gap-x-4">
        <h2 id="last-changes" className="text-lg font-semibold">
          <Trans>Last changes</Trans>
        </h2>
        <Legend />
      </div>
      {changes.length === 0 ? (
        <p className="text-quiet">
          <Trans>
            No changes since the service started. Change a row in the database to see it here.
          </Trans>
        </p>
      ) : (
        <DataTable
          label={t`Last changes`}
          columns={COLUMNS}
          items={changes}
          identity={({ index, change }) =>
            `${index} ${change.key} ${change.visible} ${change.table}`
          }
        />
      )}
    </section>
  );
}

const STEPS = [
  { name: t`captured`, shade: 0.3 },
  { name: t`read`, shade: 0.52 },
  { name: t`mapped`, shade: 0.76 },
  { name: t`visible`, shade: 1 },
];

function Legend() {
  return (
    <span className="flex flex-wrap gap-x-3 text-sm text-quiet">
      {STEPS.map((step) => (
        <span key={step.name} className="inline-flex items-center gap-1">
          <span
            aria-hidden
            className="inline-block size-2.5 rounded-[1px] bg-accent"
            style={{ opacity: step.shade }}
          />
          {step.name}
        </span>
      ))}
    </span>
  );
}

function steps(change: Change) {
  const at = [change.committed, change.captured, change.read, change.mapped, change.visible].map(
    (iso) => Date.parse(iso),
  );
  return STEPS.map((step, i) => ({
    ...step,
    millis: Math.max(0, (at[i + 1] ?? 0) - (at[i] ?? 0)),
  }));
}

const way = (change: Change) =>
  steps(change)
    .map((step) => t`${step.name} +${step.millis} ms`)
    .join(" · ");

/** A change's way through the feed: one stretch for each step, as long as it took. */
function Way({ change }: { change: Change }) {
  return (
    <div
      className="mt-1.5 flex h-2.5 w-40 items-stretch gap-px"
      role="img"
      aria-label={way(change)}
      title={way(change)}
    >
      {steps(change).map((step) => (
        <span
          key={step.name}
          className="rounded-[1px] bg-accent"
          style={{ opacity: step.shade, flexGrow: step.millis + 0.3, flexBasis: 0 }}
        />
      ))}
    </div>
  );
}
