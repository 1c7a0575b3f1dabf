import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import type { IndexTable } from "../api";
import { BOX_WIDTH, LINE_HEIGHT, layout } from "./recordLayout";

/** The tables of a record and how their rows belong together. */
export function RecordPicture({ tables }: { tables: IndexTable[] }) {
  const { boxes, lines, width, height } = layout(tables);
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: it is scrolled by keyboard
    <section className="overflow-x-auto pb-2" aria-label={t`Tables of a record`} tabIndex={0}>
      <div className="relative" style={{ width, height }}>
        <svg
          width={width}
          height={height}
          className="absolute inset-0 text-quiet"
          aria-hidden="true"
          focusable="false"
        >
          <title>
            <Trans>How tables are related</Trans>
          </title>
          {lines.map((line) => (
            <g key={line.name}>
              <path d={line.path} fill="none" stroke="currentColor" strokeWidth="1.5" />
              <text
                x={line.x - 6}
                y={line.y - 5}
                textAnchor="end"
                fill="currentColor"
                fontSize="13"
              >
                {line.many ? t`many` : t`one`}
              </text>
            </g>
          ))}
        </svg>
        {boxes.map(({ table, notes, x, y, height: tall }) => (
          <div
            key={table.name}
            className="absolute overflow-hidden rounded border border-line bg-surface"
            style={{ left: x, top: y, width: BOX_WIDTH, height: tall }}
            title={table.match.join(" and ")}
          >
            <p
              className={`truncate border-b border-line px-3 py-1 ${table.of === undefined ? "bg-wash" : "bg-ground"}`}
            >
              <strong>{table.name}</strong>
              {table.table !== table.name && (
                <span className="text-quiet">
                  {" "}
                  <Trans>from {table.table}</Trans>
                </span>
              )}
            </p>
            <ul className="px-3 pt-0.5 text-sm">
              {table.columns.map((column) => (
                <li key={column} className="truncate" style={{ height: LINE_HEIGHT }}>
                  {column}
                </li>
              ))}
              {notes.map((note) => (
                <li
                  key={note}
                  className="truncate text-quiet"
                  style={{ height: LINE_HEIGHT }}
                  title={note}
                >
                  {note}
                </li>
              ))}
            </ul>
          </div>
        ))}
      </div>
    </section>
  );
}
