import { type ReactNode, useState } from "react";
import type { Endpoint, InsightRow } from "../api";
import { count, decimal, percent } from "../format";
import { InsightActs } from "./insightActs";
import { Scrolled } from "./scrolled";

interface Column {
  title: string;
  cell: (row: InsightRow) => ReactNode;
}

const mean = (row: InsightRow) => (row.meanPosition === undefined ? "" : decimal(row.meanPosition));

const COLUMNS = {
  before: { title: "before", cell: (row: InsightRow) => count(row.before) },
  nothing: { title: "no results", cell: (row: InsightRow) => count(row.withoutResults) },
  few: { title: "1 or 2", cell: (row: InsightRow) => count(row.fewResults) },
  results: { title: "results", cell: (row: InsightRow) => count(Math.round(row.meanResults)) },
  opened: { title: "opened", cell: (row: InsightRow) => percent(row.opened, row.searches) },
  place: { title: "at place", cell: mean },
  later: { title: "later pages", cell: (row: InsightRow) => count(row.laterPages) },
  relaxed: { title: "words left out", cell: (row: InsightRow) => count(row.relaxed) },
  corrected: { title: "corrected", cell: (row: InsightRow) => count(row.corrected) },
  curated: { title: "curated", cell: (row: InsightRow) => count(row.curated) },
  millis: { title: "mean ms", cell: (row: InsightRow) => decimal(row.meanMillis) },
  slowest: { title: "slowest ms", cell: (row: InsightRow) => decimal(row.slowest) },
} satisfies Record<string, Column>;

/** The reports, and what tells about each. */
export const REPORTS: { value: string; title: string; columns: Column[] }[] = [
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
  const columns = REPORTS.find((one) => one.value === props.report)?.columns ?? [];
  if (props.rows.length === 0) return <p className="mt-2 text-quiet">No such searches.</p>;
  return (
    <Scrolled label="Report, table" className="relative mt-2">
      <table className="w-full text-left">
        <thead className="text-sm text-quiet">
          <tr>
            <th className="py-1 pr-3 font-normal">words</th>
            <th className="px-3 text-right font-normal">searches</th>
            {columns.map((column) => (
              <th key={column.title} className="px-3 text-right font-normal">
                {column.title}
              </th>
            ))}
            <th className="w-36">
              <span className="sr-only">What to do</span>
            </th>
          </tr>
        </thead>
        {props.rows.map((row) => (
          <tbody key={row.words} className="border-t border-line">
            <tr>
              <td className="py-1 pr-3 font-semibold break-words">{row.words}</td>
              <td className="px-3 text-right tabular-nums">{count(row.searches)}</td>
              {columns.map((column) => (
                <td key={column.title} className="px-3 text-right tabular-nums">
                  {column.cell(row)}
                </td>
              ))}
              <td className="text-right whitespace-nowrap">
                <button
                  type="button"
                  className="text-accent underline"
                  aria-expanded={open === row.words}
                  aria-label={`What to do about ${row.words}`}
                  onClick={() => setOpen(open === row.words ? undefined : row.words)}
                >
                  What to do
                </button>
              </td>
            </tr>
            {open === row.words && (
              <tr>
                <td colSpan={columns.length + 3} className="pb-3">
                  <InsightActs words={row.words} endpoint={props.endpoint} />
                </td>
              </tr>
            )}
          </tbody>
        ))}
      </table>
    </Scrolled>
  );
}
