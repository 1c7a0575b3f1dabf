import { t } from "@lingui/core/macro";
import type { IndexStatus } from "../api";

/** How an index is, the worst first. */
export const STATES = {
  down: t`Not running`,
  behind: t`Behind the database`,
  waiting: t`Waiting for a decision`,
  quarantine: t`With records in quarantine`,
  building: t`Being built for the first time`,
  good: t`Up to date`,
} as const;

export type State = keyof typeof STATES;

const ORDER = Object.keys(STATES) as State[];

/** The worst that can be said of an index. */
export function stateOf(index: IndexStatus): State {
  if (index.live?.damage || (!index.live && index.problem)) return "down";
  if (!index.live) return "building";
  if (!index.fresh) return "behind";
  if (index.held) return "waiting";
  return index.live.quarantined > 0 ? "quarantine" : "good";
}

/** The same indexes, by state and then by name. */
export const worstFirst = (indexes: IndexStatus[]) =>
  indexes.toSorted(
    (a, b) => ORDER.indexOf(stateOf(a)) - ORDER.indexOf(stateOf(b)) || a.name.localeCompare(b.name),
  );
