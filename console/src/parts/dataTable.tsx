import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import {
  type ColumnDef,
  columnFilteringFeature,
  createFilteredRowModel,
  createSortedRowModel,
  filterFn_includesString,
  globalFilteringFeature,
  type Row,
  rowSortingFeature,
  tableFeatures,
  useTable,
} from "@tanstack/react-table";
import { ArrowDown, ArrowUp } from "lucide-react";
import Papa from "papaparse";
import { Fragment, type ReactNode, useMemo } from "react";
import { count } from "../format";
import { CopyButton } from "./copyButton";
import { Scrolled } from "./scrolled";

type Value = string | number | undefined;

/** A column. Its value is sorted by, looked for and copied; its cell is shown. */
export interface Column<Item> {
  title: string;
  value: (item: Item) => Value;
  cell?: (item: Item) => ReactNode;
  /** Stands at the right, as numbers do. */
  right?: boolean;
  className?: string;
}

/** A column of numbers; what has none stays empty. */
export function numbers<Item>(
  title: string,
  value: (item: Item) => number | undefined,
  shown: (n: number) => string = count,
): Column<Item> {
  return {
    title,
    value,
    cell: (item) => {
      const n = value(item);
      return n === undefined ? "" : shown(n);
    },
    right: true,
  };
}

/** From here on a table is worth looking through by words. */
const FILTERED_FROM = 6;

const COLLATOR = new Intl.Collator(undefined, { numeric: true });

const features = tableFeatures({
  columnFilteringFeature,
  globalFilteringFeature,
  rowSortingFeature,
  filteredRowModel: createFilteredRowModel(),
  sortedRowModel: createSortedRowModel(),
});

function compare(a: Value, b: Value): number {
  return typeof a === "number" && typeof b === "number"
    ? a - b
    : COLLATOR.compare(String(a), String(b));
}

/**
 * A table whose rows can be sorted by each column, looked through by words, and copied as CSV, as
 * they are shown (RFC 4180; what a spreadsheet would compute is made harmless).
 *
 * @param props.label what it shows, for those who do not see it
 * @param props.identity tells rows apart
 * @param props.acts what may be done with a row, in a last column
 * @param props.below what stands below a row
 * @param props.last a row at the end, whatever is sorted: the total
 */
export function DataTable<Item extends object>(props: {
  label: string;
  columns: Column<Item>[];
  items: Item[];
  identity: (item: Item) => string;
  acts?: (item: Item) => ReactNode;
  below?: (item: Item) => ReactNode;
  last?: Item;
  small?: boolean;
}) {
  const { label, columns, items, identity, acts, below, last } = props;
  const defined = useMemo(
    () =>
      columns.map((column): ColumnDef<typeof features, Item> => {
        return {
          id: column.title,
          accessorFn: column.value,
          sortFn: (a: Row<typeof features, Item>, b: Row<typeof features, Item>, id: string) =>
            compare(a.getValue<Value>(id), b.getValue<Value>(id)),
          sortUndefined: "last",
        };
      }),
    [columns],
  );
  const table = useTable({
    features,
    columns: defined,
    data: items,
    getRowId: identity,
    globalFilterFn: filterFn_includesString,
    getColumnCanGlobalFilter: () => true,
    enableMultiSort: false,
  });
  const words: string = table.state.globalFilter ?? "";
  const rows = table.getRowModel().rows.map((row) => row.original);
  const ends = (place: number) =>
    `${place === 0 ? "pl-4" : "pl-2"} ${place === columns.length - 1 && !acts ? "pr-4" : "pr-2"}`;
  const cells = (item: Item) =>
    columns.map((column, place) => (
      <td
        key={column.title}
        className={`py-1 ${ends(place)} ${column.right ? "text-right tabular-nums" : ""} ${column.className ?? ""}`}
      >
        {column.cell ? column.cell(item) : column.value(item)}
      </td>
    ));
  return (
    <div className="rounded border border-line bg-surface">
      <div className="flex flex-wrap items-center justify-end gap-2 px-4 pt-2">
        {(items.length >= FILTERED_FROM || words !== "") && (
          <input
            type="search"
            aria-label={t`Look through: ${label}`}
            placeholder={t`Look through`}
            className="min-w-0 rounded border border-line bg-surface px-2 py-0.5 text-sm"
            value={words}
            onChange={(event) => table.setGlobalFilter(event.target.value)}
          />
        )}
        <CopyButton what={`(${label})`} text={() => csv(columns, rows)}>
          {t`Copy as CSV`}
        </CopyButton>
      </div>
      <Scrolled label={t`${label}, table`} className="max-h-[32rem] overflow-y-auto">
        <table className={`w-full text-left ${props.small ? "text-sm" : ""}`}>
          <thead className="sticky top-0 z-10 bg-surface text-sm text-quiet shadow-[inset_0_-1px_0_var(--line)]">
            <tr>
              {table.getHeaderGroups()[0]?.headers.map(({ column }, place) => {
                const sorted = column.getIsSorted();
                const right = columns[place]?.right;
                return (
                  <th
                    key={column.id}
                    aria-sort={sorted ? (sorted === "asc" ? "ascending" : "descending") : undefined}
                    className={`py-1 font-normal ${ends(place)} ${right ? "text-right" : ""}`}
                  >
                    <button
                      type="button"
                      className="inline-flex items-center gap-0.5 whitespace-nowrap hover:text-ink"
                      onClick={() => column.toggleSorting()}
                    >
                      {column.id}
                      {sorted === "asc" && <ArrowUp size={13} aria-hidden />}
                      {sorted === "desc" && <ArrowDown size={13} aria-hidden />}
                    </button>
                  </th>
                );
              })}
              {acts && (
                <th>
                  <span className="sr-only">
                    <Trans>What to do</Trans>
                  </span>
                </th>
              )}
            </tr>
          </thead>
          <tbody>
            {rows.map((item) => {
              const under = below?.(item);
              return (
                <Fragment key={identity(item)}>
                  <tr className="border-t border-line align-top">
                    {cells(item)}
                    {acts && <td className="py-1 pr-4 pl-2 text-right">{acts(item)}</td>}
                  </tr>
                  {under && (
                    <tr>
                      <td colSpan={columns.length + (acts ? 1 : 0)} className="px-4 pb-3">
                        {under}
                      </td>
                    </tr>
                  )}
                </Fragment>
              );
            })}
            {last && (
              <tr className="border-t border-line font-semibold">
                {cells(last)}
                {acts && <td />}
              </tr>
            )}
          </tbody>
        </table>
        {rows.length === 0 && items.length > 0 && (
          <p className="px-4 py-2 text-quiet">
            <Trans>No row has “{words}”.</Trans>
          </p>
        )}
      </Scrolled>
    </div>
  );
}

function csv<Item>(columns: Column<Item>[], items: Item[]): string {
  return Papa.unparse(
    {
      fields: columns.map((column) => column.title),
      data: items.map((item) => columns.map((column) => column.value(item) ?? "")),
    },
    { escapeFormulae: true },
  );
}
