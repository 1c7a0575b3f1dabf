import type { Change, IndexChange } from "../api";
import { ago, millis, timeOfDay } from "../format";
import { Scrolled } from "./scrolled";

const OUTCOMES: Record<Change["outcome"], { word: string; tone: string }> = {
  INDEXED: { word: "indexed", tone: "text-accent" },
  REMOVED: { word: "removed", tone: "text-ink" },
  UNCHANGED: { word: "unchanged", tone: "text-quiet" },
  QUARANTINED: { word: "quarantined", tone: "text-warn" },
};

/** The last changes with their way through the feed, newest first. */
export function LastChanges({ changes }: { changes: IndexChange[] }) {
  return (
    <section aria-labelledby="last-changes">
      <h2 id="last-changes" className="mb-1.5 text-lg font-semibold">
        Last changes
      </h2>
      {changes.length === 0 ? (
        <p className="text-quiet">
          No changes since the service started. Change a row in the database to see it here.
        </p>
      ) : (
        <Scrolled label="Last changes, table" className="rounded border border-line bg-surface">
          <table className="w-full text-left">
            <thead className="border-b border-line text-sm text-quiet">
              <tr>
                <th className="px-4 py-1.5 font-normal">Committed</th>
                <th className="px-2 py-1.5 font-normal">Record</th>
                <th className="px-2 py-1.5 font-normal">Changed in</th>
                <th className="px-2 py-1.5 font-normal">Outcome</th>
                <th className="px-2 py-1.5 text-right font-normal">Visible after</th>
                <th className="px-4 py-1.5 font-normal">
                  <Legend />
                </th>
              </tr>
            </thead>
            <tbody>
              {changes.map(({ index, change, lagMillis }) => (
                <tr
                  key={`${index} ${change.key} ${change.visible} ${change.table}`}
                  className="border-b border-line last:border-0"
                >
                  <td
                    className="px-4 py-1 whitespace-nowrap"
                    title={ago(change.committed, Date.now())}
                  >
                    {timeOfDay(change.committed)}
                  </td>
                  <td className="px-2 py-1 font-semibold whitespace-nowrap">{change.key}</td>
                  <td className="px-2 py-1">{change.table}</td>
                  <td className={`px-2 py-1 ${OUTCOMES[change.outcome].tone}`}>
                    {OUTCOMES[change.outcome].word}
                  </td>
                  <td className="px-2 py-1 text-right whitespace-nowrap">{millis(lagMillis)}</td>
                  <td className="px-4 py-1">
                    <Way change={change} />
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </Scrolled>
      )}
    </section>
  );
}

const STEPS = [
  { name: "captured", shade: 0.3 },
  { name: "read", shade: 0.52 },
  { name: "mapped", shade: 0.76 },
  { name: "visible", shade: 1 },
];

function Legend() {
  return (
    <span className="flex gap-x-3">
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

/** A change's way through the feed: one stretch for each step, as long as it took. */
function Way({ change }: { change: Change }) {
  const at = [change.committed, change.captured, change.read, change.mapped, change.visible].map(
    (iso) => Date.parse(iso),
  );
  const steps = STEPS.map((step, i) => ({
    ...step,
    millis: Math.max(0, (at[i + 1] ?? 0) - (at[i] ?? 0)),
  }));
  return (
    <div
      className="flex h-2.5 w-40 items-stretch gap-px"
      role="img"
      aria-label={steps.map((s) => `${s.name} after ${s.millis} ms`).join(", ")}
      title={steps.map((s) => `${s.name} +${s.millis} ms`).join(" · ")}
    >
      {steps.map((step) => (
        <span
          key={step.name}
          className="rounded-[1px] bg-accent"
          style={{ opacity: step.shade, flexGrow: step.millis + 0.3, flexBasis: 0 }}
        />
      ))}
    </div>
  );
}
