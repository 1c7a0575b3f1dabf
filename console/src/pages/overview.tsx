import { t } from "@lingui/core/macro";
import { Plural, Trans } from "@lingui/react/macro";
import { CircleCheck, Hourglass, TriangleAlert } from "lucide-react";
import type { ConditionView, IndexStatus } from "../api";
import { count } from "../format";
import { FirstSteps } from "../parts/firstSteps";
import { IndexCard } from "../parts/indexCard";
import { IndexList } from "../parts/indexList";
import { type State, stateOf, worstFirst } from "../parts/indexState";
import { LastChanges } from "../parts/lastChanges";
import { Notice, Waiting } from "../parts/notice";
import { useOverview } from "../parts/overview";
import { Ago } from "../parts/time";

/** From how many indexes on they are listed, with one card at a time. */
const MANY = 6;

/** How many indexes a sentence names. */
const NAMED = 4;

/** Is everything true and fresh? Answered in one look, then the numbers behind the answer. */
export function OverviewPage() {
  const { overview, connected } = useOverview();
  if (!overview) return <Waiting connected={connected} />;
  const { indexes, changes } = overview;
  return (
    <div className="flex flex-col gap-5">
      {!connected && (
        <Notice tone="bad">
          <Trans>
            The service is unreachable. The page shows its last state and reconnects automatically.
          </Trans>
        </Notice>
      )}
      {indexes.length === 0 ? (
        <h1 className="text-2xl font-semibold tracking-tight">
          <Trans>No index yet</Trans>
        </h1>
      ) : (
        <Verdict indexes={indexes} />
      )}
      <Conditions held={overview.conditions} />
      <FirstSteps indexes={indexes} />
      {indexes.length < MANY ? (
        worstFirst(indexes).map((index) => (
          <IndexCard
            key={index.name}
            index={index}
            changes={changes.filter((c) => c.index === index.name)}
          />
        ))
      ) : (
        <IndexList indexes={indexes} changes={changes} />
      )}
      {indexes.length > 0 && <LastChanges changes={changes} />}
    </div>
  );
}

function Verdict({ indexes }: { indexes: IndexStatus[] }) {
  const inState = (state: State) => indexes.filter((index) => stateOf(index) === state);
  const down = inState("down");
  const behind = inState("behind");
  const building = inState("building");
  const quarantined = indexes.reduce((sum, index) => sum + (index.live?.quarantined ?? 0), 0);
  let icon = <CircleCheck size={30} className="text-accent" aria-hidden />;
  let sentence = t`All indexes are up to date.`;
  if (down.length > 0) {
    icon = <TriangleAlert size={30} className="text-bad" aria-hidden />;
    sentence = t`${names(down)}: not running. Its searches are refused.`;
  } else if (behind.length > 0) {
    icon = <TriangleAlert size={30} className="text-warn" aria-hidden />;
    sentence = t`${names(behind)}: behind the database. Searches use the data indexed so far.`;
  } else if (building.length > 0) {
    icon = <Hourglass size={30} className="text-warn" aria-hidden />;
    sentence = t`${names(building)}: being built for the first time. Searches work when it is complete.`;
  }
  return (
    <section className="flex items-center gap-3" aria-live="polite">
      {icon}
      <div>
        <h1 className="text-2xl font-semibold tracking-tight">{sentence}</h1>
        {quarantined > 0 && (
          <p className="text-warn">
            <Trans>
              {count(quarantined)} <Plural value={quarantined} one="record" other="records" /> could
              not be read or mapped and are in quarantine.
            </Trans>
          </p>
        )}
      </div>
    </section>
  );
}

/** The first few of them, and how many more there are. */
function names(indexes: IndexStatus[]): string {
  const first = indexes.slice(0, NAMED).map((index) => index.name);
  const listed = first.join(", ");
  const more = indexes.length - first.length;
  return more > 0 ? t`${listed} and ${more} more` : listed;
}

/** What somebody should know of, the oldest first. */
function Conditions({ held }: { held: ConditionView[] }) {
  if (held.length === 0) return null;
  return (
    <section aria-labelledby="conditions" className="rounded border border-warn bg-surface">
      <h2 id="conditions" className="border-b border-line px-4 py-2.5 text-lg font-semibold">
        <Trans>
          {count(held.length)} <Plural value={held.length} one="condition" other="conditions" /> to
          look at
        </Trans>
      </h2>
      <ul className="divide-y divide-line">
        {held.map((one) => (
          <li key={`${one.condition} ${one.about}`} className="flex flex-wrap gap-x-3 px-4 py-2">
            <span className="font-medium text-warn">{one.condition}</span>
            <span className="min-w-0 flex-1 break-words">{one.text}</span>
            <span className="text-quiet">
              <Ago iso={one.since} />
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
