/** A page of the console. */
export interface Page {
  to: string;
  title: string;
  /** Only for those who may do everything. */
  admin?: boolean;
}

/** What concerns everything. */
export const GENERAL: Page[] = [
  { to: "/", title: "Overview" },
  { to: "/console/sources", title: "Sources" },
  { to: "/console/jobs", title: "Jobs" },
  { to: "/console/access", title: "Access", admin: true },
];

/** What concerns one index, in the order of the job. */
export const OF_INDEX: Page[] = [
  { to: "/console/indexes", title: "Record" },
  { to: "/console/analysers", title: "Analysers" },
  { to: "/console/editions", title: "Editions" },
  { to: "/console/sync", title: "Sync" },
  { to: "/console/endpoints", title: "Endpoints" },
  { to: "/console/search", title: "Search" },
  { to: "/console/insights", title: "Insights" },
];
