import type { MouseEvent, ReactNode } from "react";
import type { Answer, Result } from "../client";
import { useSearch } from "./context";
import { Marked } from "./searchBox";

/** How much was found, said to screen readers as well. */
export function ResultCount() {
  const { state, texts } = useSearch();
  const total = state.answer?.total;
  return (
    <output data-part="result-count">
      {state.problem
        ? texts.unavailable
        : total && (total.count || total.exact)
          ? total.count === 0
            ? texts.nothing
            : texts.results(total.count, total.exact)
          : ""}
    </output>
  );
}

/** What a curation says, what was left out to find something, and whether results are missing. */
export function Messages() {
  const { state, texts } = useSearch();
  const told = state.answer?.curated?.filter((one) => one.message) ?? [];
  const leftOut = state.answer?.leftOut ?? [];
  const isIncomplete = Boolean(state.answer?.missingShards);
  if (told.length === 0 && leftOut.length === 0 && !isIncomplete) return null;
  return (
    <div data-part="messages">
      {told.map((one) => (
        <p key={`${one.curation} ${one.rule}`}>
          {one.link ? <a href={one.link}>{one.message}</a> : one.message}
        </p>
      ))}
      {leftOut.length > 0 && <p>{texts.leftOut(leftOut.join(", "))}</p>}
      {isIncomplete && <p>{texts.incomplete}</p>}
    </div>
  );
}

/**
 * The results. That one was opened is told when a link in it is followed; what opens results in
 * another way calls `store.opened(key)`.
 *
 * @param props.children draws a result; otherwise its title, subtitle, picture and link are shown
 */
export function Results<Fields = Record<string, unknown>>(props: {
  children?: (result: Result<Fields>, answer: Answer<Fields>) => ReactNode;
}) {
  const { state, store } = useSearch<Fields>();
  const { answer } = state;
  if (!answer || answer.results.length === 0) return null;
  /** Links are followed by mouse, in another tab, and by keyboard, which is a click as well. */
  const followed = (event: MouseEvent, key: string) => {
    const opens = event.type === "click" || event.button === 1;
    if (opens && (event.target as Element).closest("a[href]")) store.opened(key);
  };
  return (
    <ol data-part="results" aria-busy={state.loading}>
      {answer.results.map((result) => (
        // biome-ignore lint/a11y/useKeyWithClickEvents: a link that is followed by key is clicked too
        <li
          key={result.key}
          data-part="result"
          onClick={(event) => followed(event, result.key)}
          onAuxClick={(event) => followed(event, result.key)}
        >
          {props.children ? (
            props.children(result, answer)
          ) : (
            <Card result={result as Result<unknown>} answer={answer as Answer<unknown>} />
          )}
        </li>
      ))}
    </ol>
  );
}

/** A result by the roles of its fields. */
export function Card(props: { result: Result<unknown>; answer: Answer<unknown> }) {
  const { result, answer } = props;
  const fields = result.fields as Record<string, unknown>;
  const { title, subtitle, picture } = answer.card;
  const heading = (title && <Shown result={result} name={title} />) || result.key;
  const source = picture ? String(fields[picture] ?? "") : "";
  const roles = new Set([title, subtitle, picture]);
  return (
    <article>
      {/^https?:/.test(source) && <img src={source} alt="" loading="lazy" />}
      <h2>{result.link ? <a href={result.link}>{heading}</a> : heading}</h2>
      {subtitle && fields[subtitle] !== undefined && (
        <p data-part="subtitle">
          <Shown result={result} name={subtitle} />
        </p>
      )}
      {Object.keys(result.highlights)
        .filter((name) => !roles.has(name))
        .map((name) => (
          <p key={name} data-part="highlight">
            <Shown result={result} name={name} />
          </p>
        ))}
    </article>
  );
}

/** A field of a result, with what was found in it marked. */
export function Shown(props: { result: Result<unknown>; name: string }) {
  const marked = props.result.highlights[props.name];
  // What is cut off says so itself.
  if (marked?.length) return <Marked html={marked.join(" … ").replace(/(?: …){2,} /g, " … ")} />;
  const value = (props.result.fields as Record<string, unknown>)[props.name];
  return <>{Array.isArray(value) ? value.join(", ") : String(value ?? "")}</>;
}

/** The orders of the endpoint. */
export function SortMenu(props: { orders: Readonly<Record<string, string>> }) {
  const { store, state, texts } = useSearch();
  const names = Object.keys(props.orders);
  if (names.length < 2) return null;
  return (
    <label data-part="sort">
      {texts.sort}
      <select
        value={state.query.sort ?? names[0]}
        onChange={(event) => store.sort(event.target.value)}
      >
        {names.map((name) => (
          <option key={name} value={name}>
            {props.orders[name]}
          </option>
        ))}
      </select>
    </label>
  );
}

const AROUND = 2;

/** The pages of the results: the first, the last, and those around the present one. */
export function Pages() {
  const { store, state, texts } = useSearch();
  const page = state.answer?.page ?? 1;
  const pages = state.answer?.pages ?? 0;
  if (pages < 2) return null;
  const numbers = Array.from({ length: pages }, (_, at) => at + 1).filter(
    (one) => one === 1 || one === pages || Math.abs(one - page) <= AROUND,
  );
  const go = (number: number) => () => store.page(number);
  return (
    <nav data-part="pages" aria-label={texts.pages}>
      <button type="button" disabled={page <= 1} onClick={go(page - 1)}>
        {texts.previous}
      </button>
      {numbers.map((one, at) => (
        <span key={one}>
          {at > 0 && one > (numbers[at - 1] ?? 0) + 1 && <span aria-hidden="true">…</span>}
          <button
            type="button"
            aria-label={texts.page(one)}
            aria-current={one === page ? "page" : undefined}
            onClick={go(one)}
          >
            {one}
          </button>
        </span>
      ))}
      <button type="button" disabled={page >= pages} onClick={go(page + 1)}>
        {texts.next}
      </button>
    </nav>
  );
}

/** What helps if nothing was found, or if other words were probably meant. */
export function NoResultsHelp() {
  const { store, state, texts } = useSearch();
  const { answer } = state;
  if (!answer) return null;
  const meant = answer.didYouMean;
  const choices = answer.results.length === 0 && answer.chosen.length > 0;
  if (!meant && !choices) return null;
  return (
    <div data-part="no-results-help">
      {meant && (
        <p>
          {texts.meant}{" "}
          <button type="button" onClick={() => store.submit(meant)}>
            {meant}
          </button>
          ?
        </p>
      )}
      {choices && (
        <button type="button" onClick={() => store.clear()}>
          {texts.withoutChoices}
        </button>
      )}
    </div>
  );
}
