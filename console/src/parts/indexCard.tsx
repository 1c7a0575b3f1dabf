import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import type { ReactNode } from "react";
import type { EditionStatus, IndexChange, IndexStatus } from "../api";
import { count, megabytes, millis } from "../format";
import { AuditLine } from "./auditLine";
import { Notice } from "./notice";
import { At } from "./time";

/** One index: how true and fresh it is, in numbers. */
export function IndexCard({ index, changes }: { index: IndexStatus; changes: IndexChange[] }) {
  const edition = index.live ?? index.next;
  return (
    <section className="rounded border border-line bg-surface" aria-label={t`Index ${index.name}`}>
      <header className="flex flex-wrap items-baseline gap-x-3 border-b border-line px-4 py-2.5">
        <h2 className="text-lg font-semibold">{index.name}</h2>
        <span className="text-quiet">
          <Trans>
            {index.source && t`from ${index.source}, `}definition version {index.version}
          </Trans>
        </span>
        <span className="ml-auto text-quiet">
          {edition?.trueAt && (
            <Trans>
              up to date as of <At iso={edition.trueAt} />
            </Trans>
          )}
          {edition && !edition.trueAt && t`not up to date yet`}
          {edition?.position && <Trans> · position {edition.position}</Trans>}
          {edition?.retained && <Trans> · {edition.retained} kept by the source</Trans>}
        </span>
      </header>
      {edition && (
        <dl className="grid grid-cols-2 gap-px bg-line sm:grid-cols-3 lg:grid-cols-6">
          <Figure name={t`Documents`} value={count(edition.documents)} />
          <Figure name={t`Lag, median`} value={millis(edition.lagMedianMillis)}>
            <LagBars changes={changes} />
          </Figure>
          <Figure name={t`Lag, 99th percentile`} value={millis(edition.lagP99Millis)} />
          <Figure name={t`Records updated`} value={count(edition.changes)} />
          <Figure
            name={t`In quarantine`}
            value={count(edition.quarantined)}
            tone={edition.quarantined > 0 ? "text-warn" : ""}
          />
          <Figure
            name={t`Edition ${edition.number}`}
            value={megabytes(edition.bytes)}
            note={t`${count(edition.segments)} ${plural(edition.segments, { one: "segment", other: "segments" })}`}
          />
        </dl>
      )}
      {(index.problem || edition?.damage) && (
        <div className="p-3">
          <Notice tone="bad">{edition?.damage ?? index.problem}</Notice>
        </div>
      )}
      {(edition?.problem || index.held) && (
        <div className="p-3">
          <Notice tone="warn">{index.held ?? edition?.problem}</Notice>
        </div>
      )}
      {index.live && <AuditLine index={index.name} />}
      {index.next && <Filling edition={index.next} beside={Boolean(index.live)} />}
    </section>
  );
}

function Figure(props: {
  name: string;
  value: string;
  note?: string;
  tone?: string;
  children?: ReactNode;
}) {
  return (
    <div className="flex flex-col bg-surface px-4 py-3">
      <dt className="text-sm text-quiet">{props.name}</dt>
      <dd className={`text-xl font-semibold ${props.tone ?? ""}`}>{props.value}</dd>
      {props.note && <dd className="text-sm text-quiet">{props.note}</dd>}
      {props.children && <dd className="mt-auto pt-1">{props.children}</dd>}
    </div>
  );
}

/** The lags of the last changes, oldest first; the tallest bar is the longest lag. */
function LagBars({ changes }: { changes: IndexChange[] }) {
  const lags = changes.map((c) => c.lagMillis).reverse();
  const most = Math.max(1, ...lags);
  if (lags.length === 0) return null;
  return (
    <svg
      viewBox={`0 0 ${lags.length * 5} 18`}
      height="18"
      width={lags.length * 5}
      role="img"
      aria-label={t`Lags of the last ${lags.length} changes, at most ${most} ms`}
    >
      {lags.map((lag, i) => {
        const height = Math.max(1.5, (lag / most) * 18);
        return (
          // biome-ignore lint/suspicious/noArrayIndexKey: a bar has no identity but its place
          <rect key={i} x={i * 5} y={18 - height} width="4" height={height} fill="var(--accent)" />
        );
      })}
    </svg>
  );
}

function Filling({ edition, beside }: { edition: EditionStatus; beside: boolean }) {
  const share = edition.recordsTotal > 0 ? edition.recordsDone / edition.recordsTotal : 0;
  return (
    <div className="border-t border-line px-4 py-3">
      <div className="flex flex-wrap justify-between gap-x-4">
        <span>
          <Trans>
            Edition {edition.number} is being filled{beside && t` beside the live one`}
          </Trans>
        </span>
        <span className="text-quiet">
          <Trans>
            {count(edition.recordsDone)} of {count(edition.recordsTotal)} records
            {edition.recordsPerSecond > 0 && (
              <Trans>, {count(edition.recordsPerSecond)} a second</Trans>
            )}
          </Trans>
        </span>
      </div>
      <div className="mt-1.5 h-2 overflow-hidden rounded bg-ground">
        <div
          className="h-full bg-accent"
          style={{ width: `${Math.round(100 * Math.min(1, share))}%` }}
        />
      </div>
    </div>
  );
}
