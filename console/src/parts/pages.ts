import { t } from "@lingui/core/macro";
/** A page of the console. */
export interface Page {
  to: string;
  title: string;
  /** Only for those who may do everything. */
  admin?: boolean;
}

/** What concerns everything. */
export const GENERAL: Page[] = [
  { to: "/", title: t`Overview` },
  { to: "/console/sources", title: t`Sources` },
  { to: "/console/jobs", title: t`Jobs` },
  { to: "/console/nodes", title: t`Nodes` },
  { to: "/console/access", title: t`Access`, admin: true },
];

/** What concerns one index, in the order of the job. */
export const OF_INDEX: Page[] = [
  { to: "/console/indexes", title: t`Record` },
  { to: "/console/analysers", title: t`Analysers` },
  { to: "/console/editions", title: t`Editions` },
  { to: "/console/sync", title: t`Sync` },
  { to: "/console/endpoints", title: t`Endpoints` },
  { to: "/console/search", title: t`Search` },
  { to: "/console/insights", title: t`Insights` },
];
