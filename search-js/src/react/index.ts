/** Parts of a search page for React, without a look: style them by `data-part`. */
export { SearchProvider, useSearch } from "./context";
export { ChosenFilters, FacetList, Facets, RangeFacet } from "./facets";
export {
  Card,
  Messages,
  NoResultsHelp,
  Pages,
  ResultCount,
  Results,
  Shown,
  SortMenu,
} from "./results";
export { Marked, SearchBox } from "./searchBox";
