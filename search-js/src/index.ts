/** A client for Mnemex endpoints and the state of a search page; no look of its own. */
export * from "./client";
export { choosing, EMPTY, fromParameters, type Query, toParameters } from "./query";
export { type SearchState, SearchStore, type StoreOptions } from "./store";
export { type Texts, textsFor } from "./texts";
