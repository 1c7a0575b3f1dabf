import type { PageView, Result } from "../client";
import {
  Card,
  ChosenFilters,
  Facets,
  Messages,
  NoResultsHelp,
  Pages,
  ResultCount,
  Results,
  SearchBox,
  SearchProvider,
  SortMenu,
  useSearch,
} from "../react";
import type { SearchStore } from "../store";
import type { Texts } from "../texts";

/** The page of an endpoint, made of the parts. */
export function Page(props: {
  view: PageView;
  store: SearchStore<Record<string, unknown>>;
  texts: Texts;
  language: string;
}) {
  const { view, texts } = props;
  return (
    <SearchProvider store={props.store} texts={texts}>
      <header>
        <h1>{view.title}</h1>
        <SearchBox />
      </header>
      <main>
        <Filters texts={texts} />
        <section aria-label={view.title}>
          <ChosenFilters />
          <div className="bar">
            <ResultCount />
            <SortMenu orders={view.orders} />
          </div>
          <Messages />
          <NoResultsHelp />
          <Results<Record<string, unknown>>>
            {(result, answer) => (
              <>
                <Card result={result} answer={answer} />
                <Details
                  result={result}
                  view={view}
                  language={props.language}
                  without={[answer.card.title, answer.card.subtitle, answer.card.picture]}
                />
              </>
            )}
          </Results>
          <Pages />
        </section>
      </main>
    </SearchProvider>
  );
}

/** Beside the results, or above them on a narrow screen, where they are folded. */
function Filters(props: { texts: Texts }) {
  const { state } = useSearch();
  const chosen = state.answer?.chosen.length ?? 0;
  return (
    <details className="filters" open={window.matchMedia("(min-width: 720px)").matches}>
      <summary>
        {props.texts.filters}
        {chosen > 0 && ` (${chosen})`}
      </summary>
      <Facets />
    </details>
  );
}

/** The other fields of a result that fit on a line. */
function Details(props: {
  result: Result<Record<string, unknown>>;
  view: PageView;
  language: string;
  without: (string | undefined)[];
}) {
  const { fields, labels } = props.view;
  const told = Object.entries(fields)
    .filter(([name]) => !props.without.includes(name) && !props.result.highlights[name])
    .map(([name, title]) => ({
      name,
      title,
      text: shown(props.result.fields[name], labels[name], props.language),
    }))
    .filter((one) => one.text);
  if (told.length === 0) return null;
  return (
    <dl>
      {told.map((one) => (
        <div key={one.name}>
          <dt>{one.title}</dt>
          <dd>{one.text}</dd>
        </div>
      ))}
    </dl>
  );
}

const DAY = /^\d{4}-\d{2}-\d{2}$/;

/** A value as people read it; empty if it is no simple one. */
function shown(
  value: unknown,
  labels: Record<string, string> | undefined,
  language: string,
): string {
  if (Array.isArray(value)) {
    return value
      .map((one) => shown(one, labels, language))
      .filter(Boolean)
      .join(", ");
  }
  const label = labels?.[String(value)];
  if (label !== undefined) return label;
  if (typeof value === "number") return value.toLocaleString(language, { useGrouping: "min2" });
  if (typeof value === "boolean") return value ? "✓" : "–";
  if (typeof value !== "string") return "";
  return DAY.test(value)
    ? new Date(`${value}T12:00:00Z`).toLocaleDateString(language, { dateStyle: "medium" })
    : value;
}
