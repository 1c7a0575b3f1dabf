import { useMemo, useState } from "react";
import type { Endpoint, InsightRow } from "../api";
import { count, decimal, percent } from "../format";
import { type Column, DataTable } from "./dataTable";
import { InsightActs } from "./insightActs";

type InsightColumn = Column<InsightRow>;

/** A column of numbers. */
function number(
  title: string,
  value: InsightColumn["value"],
  shown: (n: number) => string = count,
): InsightColumn {
  return {
    title,
    value,
    cell: (row) => {
      const n = value(row);
      return n === undefined ? "" : shown(Number(n));
    },
    right: true,
  };
}

const SEARCHED: InsightColumn[] = [
  {
    title: "words",
    value: (row) => row.words,
    className: "min-w-40 font-semibold break-words",
  },
  number("searches", (row) => row.searches),
];

const COLUMNS = {
  before: number("before", (row) => row.before),
  nothing: number("no results", (row) => row.withoutResults),
  few: number("1 or 2", (row) => row.fewResults),
  results: number("results", (row) => Math.round(row.meanResults)),
  opened: number(
    "opened",
    (row) => (row.searches === 0 ? undefined : row.opened / row.searches),
    (share) => percent(share, 1),
  ),
  place: number("at place", (row) => row.meanPosition, decimal),
  later: number("later pages", (row) => row.laterPages),
  relaxed: number("words left out", (row) => row.relaxed),
  corrected: number("corrected", (row) => row.corrected),
  curated: number("curated", (row) => row.curated),
  millis: number("mean ms", (row) => row.meanMillis, decimal),
  slowest: number("slowest ms", (row) => row.slowest, decimal),
} satisfies Record<string, InsightColumn>;

/** The reports, and what tells about each. */
export const REPORTS: { value: string; title: string; columns: InsightColumn[] }[] = [
  {
    value: "frequent",
    title: "Most frequent",
    columns: [COLUMNS.before, COLUMNS.results, COLUMNS.opened, COLUMNS.place, COLUMNS.millis],
  },
  {
    value: "without-results",
    title: "No results",
    columns: [COLUMNS.nothing, COLUMNS.corrected, COLUMNS.before],
  },
  {
    value: "few-results",
    title: "Few results",
    columns: [COLUMNS.few, COLUMNS.results, COLUMNS.opened],
  },
  {
    value: "never-opened",
    title: "Never opened",
    columns: [COLUMNS.results, COLUMNS.later, COLUMNS.before],
  },
  {
    value: "far-down",
    title: "Opened far down",
    columns: [COLUMNS.place, COLUMNS.opened, COLUMNS.results, COLUMNS.later],
  },
  {
    value: "rising",
    title: "Rising",
    columns: [COLUMNS.before, COLUMNS.results, COLUMNS.opened],
  },
  {
    value: "slow",
    title: "Slow",
    columns: [COLUMNS.slowest, COLUMNS.millis, COLUMNS.results],
  },
  {
    value: "mended",
    title: "Mended",
    columns: [COLUMNS.relaxed, COLUMNS.corrected, COLUMNS.results, COLUMNS.opened],
  },
  {
    value: "curated",
    title: "Curated",
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
  if (props.rows.length === 0) return <p className="mt-2 text-quiet">No such searches.</p>;
  return (
    <div className="relative mt-2">
      <DataTable
        label="Report"
        columns={columns}
        items={props.rows}
        identity={(row) => row.words}
        acts={(row) => (
          <button
            type="button"
            className="whitespace-nowrap text-accent underline"
            aria-expanded={open === row.words}
            aria-label={`What to do about ${row.words}`}
            onClick={() => setOpen(open === row.words ? undefined : row.words)}
          >
            What to do
          </button>
        )}
        below={(row) =>
          open === row.words && <InsightActs words={row.words} endpoint={props.endpoint} />
        }
      />
    </div>
  );
}
