import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMemo, useState } from "react";
import type { Endpoint, InsightRow } from "../api";
import { decimal, percent } from "../format";
import { type Column, DataTable, numbers } from "./dataTable";
import { InsightActs } from "./insightActs";

type InsightColumn = Column<InsightRow>;

const SEARCHED: InsightColumn[] = [
  {
    title: t`words`,
    value: (row) => row.words,
    className: "min-w-40 font-semibold break-words",
  },
  numbers(t`searches`, (row) => row.searches),
];

const COLUMNS = {
  before: numbers(t`before`, (row) => row.before),
  nothing: numbers(t`no results`, (row) => row.withoutResults),
  few: numbers(t`1 or 2`, (row) => row.fewResults),
  results: numbers(t`results`, (row) => Math.round(row.meanResults)),
  opened: numbers(
    t`opened`,
    (row) => (row.searches === 0 ? undefined : row.opened / row.searches),
    (share) => percent(share, 1),
  ),
  place: numbers(t`at place`, (row) => row.meanPosition, decimal),
  later: numbers(t`later pages`, (row) => row.laterPages),
  relaxed: numbers(t`words left out`, (row) => row.relaxed),
  corrected: numbers(t`corrected`, (row) => row.corrected),
  curated: numbers(t`curated`, (row) => row.curated),
  millis: numbers(t`mean ms`, (row) => row.meanMillis, decimal),
  slowest: numbers(t`slowest ms`, (row) => row.slowest, decimal),
} satisfies Record<string, InsightColumn>;

/** The reports, and what tells about each. */
export const REPORTS: { value: string; title: string; columns: InsightColumn[] }[] = [
  {
    value: "frequent",
    title: t`Most frequent`,
    columns: [COLUMNS.before, COLUMNS.results, COLUMNS.opened, COLUMNS.place, COLUMNS.millis],
  },
  {
    value: "without-results",
    title: t`No results`,
    columns: [COLUMNS.nothing, COLUMNS.corrected, COLUMNS.before],
  },
  {
    value: "few-results",
    title: t`Few results`,
    columns: [COLUMNS.few, COLUMNS.results, COLUMNS.opened],
  },
  {
    value: "never-opened",
    title: t`Never opened`,
    columns: [COLUMNS.results, COLUMNS.later, COLUMNS.before],
  },
  {
    value: "far-down",
    title: t`Opened far down`,
    columns: [COLUMNS.place, COLUMNS.opened, COLUMNS.results, COLUMNS.later],
  },
  {
    value: "rising",
    title: t`Rising`,
    columns: [COLUMNS.before, COLUMNS.results, COLUMNS.opened],
  },
  {
    value: "slow",
    title: t`Slow`,
    columns: [COLUMNS.slowest, COLUMNS.millis, COLUMNS.results],
  },
  {
    value: "mended",
    title: t`Mended`,
    columns: [COLUMNS.relaxed, COLUMNS.corrected, COLUMNS.results, COLUMNS.opened],
  },
  {
    value: "curated",
    title: t`Curated`,
    columns: [COLUMNS.curated, COLUMNS.opened, COLUMNS.place],
  },
];

/** The searches of a report, each with what may be done about it. */
export function InsightTable(props: { report: string; rows: InsightRow[]; endpoint: Endpoint }) {
  const [open, setOpen] = useState<string>();
  const columns = useMemo(
    () => [...SEARCHED, ...(REPORTS.find((one) => one.value === props.report)?.columns ?? [])],
    [props.report],
  );
  if (props.rows.length === 0)
    return (
      <p className="mt-2 text-quiet">
        <Trans>No such searches.</Trans>
      </p>
    );
  return (
    <div className="relative mt-2">
      <DataTable
        label={t`Report`}
        columns={columns}
        items={props.rows}
        identity={(row) => row.words}
        acts={(row) => (
          <button
            type="button"
            className="whitespace-nowrap text-accent underline"
            aria-expanded={open === row.words}
            aria-label={t`What to do about ${row.words}`}
            onClick={() => setOpen(open === row.words ? undefined : row.words)}
          >
            <Trans>What to do</Trans>
          </button>
        )}
        below={(row) =>
          open === row.words && <InsightActs words={row.words} endpoint={props.endpoint} />
        }
      />
    </div>
  );
}
