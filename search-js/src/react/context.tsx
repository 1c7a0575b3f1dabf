import { createContext, type ReactNode, useContext, useEffect, useSyncExternalStore } from "react";
import type { SearchState, SearchStore } from "../store";
import { type Texts, textsFor } from "../texts";

interface Shared {
  store: SearchStore<never>;
  texts: Texts;
}

const Context = createContext<Shared | undefined>(undefined);

/** Gives a store to the parts within, and runs it while they are on the page. */
export function SearchProvider<Fields>(props: {
  store: SearchStore<Fields>;
  /** What the parts say; otherwise in the language of the browser. */
  texts?: Texts;
  children: ReactNode;
}) {
  useEffect(() => props.store.start(), [props.store]);
  const texts = props.texts ?? textsFor(navigator.languages).texts;
  const shared = { store: props.store as unknown as SearchStore<never>, texts };
  return <Context.Provider value={shared}>{props.children}</Context.Provider>;
}

function shared(): Shared {
  const found = useContext(Context);
  if (!found) throw new Error("parts of a search belong into a SearchProvider");
  return found;
}

/** The store, its present state and the texts. */
export function useSearch<Fields = Record<string, unknown>>(): {
  store: SearchStore<Fields>;
  state: SearchState<Fields>;
  texts: Texts;
} {
  const { store, texts } = shared();
  const typed = store as unknown as SearchStore<Fields>;
  return { store: typed, state: useSyncExternalStore(typed.subscribe, typed.state), texts };
}
