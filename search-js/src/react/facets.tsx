import { useState } from "react";
import type { Facet, FacetValue } from "../client";
import { useSearch } from "./context";

/** All facets of the endpoint with something to choose, in its order. */
export function Facets(props: { only?: readonly string[]; shown?: number }) {
  const { state } = useSearch();
  const names = props.only ?? Object.keys(state.answer?.facets ?? {});
  return (
    <div data-part="facets">
      {names.map((name) => (
        <FacetList key={name} name={name} shown={props.shown} />
      ))}
    </div>
  );
}

/** The values of a facet with their counts; the rest on request, or by their beginning. */
export function FacetList(props: { name: string; shown?: number }) {
  const { store, state, texts } = useSearch();
  const [all, setAll] = useState(false);
  const [begins, setBegins] = useState("");
  const [found, setFound] = useState<{ begins: string; facet: Facet }>();
  const facet = state.answer?.facets[props.name];
  const some = facet?.values.some((value) => value.count > 0 || value.chosen);
  if (!facet || facet.statistics || !some) return null;
  const look = (text: string) => {
    setBegins(text);
    if (text) {
      store
        .find(props.name, text)
        .then((answer) => setFound({ begins: text, facet: answer }))
        .catch(() => setFound(undefined));
    }
  };
  // Ranges are answered with nothing in them as well.
  const values = (begins && found?.begins === begins ? found.facet : facet).values.filter(
    (value) => value.count > 0 || value.chosen,
  );
  const few = props.shown ?? 6;
  const shown = all || begins ? values : values.filter((value, at) => at < few || value.chosen);
  return (
    <fieldset data-part="facet" data-facet={props.name}>
      <legend>{facet.title}</legend>
      {facet.more && facet.searchable && (
        <input
          type="search"
          aria-label={texts.find(facet.title)}
          placeholder={texts.find(facet.title)}
          value={begins}
          onChange={(event) => look(event.target.value)}
        />
      )}
      <ul>
        {shown.map((value) => (
          <Value key={value.value} facet={props.name} value={value} />
        ))}
      </ul>
      {!begins && values.length > few && (
        <button type="button" aria-expanded={all} onClick={() => setAll(!all)}>
          {all ? texts.fewer : texts.more}
        </button>
      )}
    </fieldset>
  );
}

function Value(props: { facet: string; value: FacetValue }) {
  const { store } = useSearch();
  const { value } = props;
  return (
    <li>
      <label data-part="facet-value">
        <input
          type="checkbox"
          checked={value.chosen}
          onChange={() => store.toggle(props.facet, value.value)}
        />
        <span>{value.label}</span>
        <span data-part="count">{value.count.toLocaleString()}</span>
      </label>
    </li>
  );
}

/** A range of a number or date: two ends, each of which may be open. */
export function RangeFacet(props: { name: string; title?: string; type?: "number" | "date" }) {
  const { store, state, texts } = useSearch();
  const facet = state.answer?.facets[props.name];
  const [from, to] = (state.query.chosen[props.name]?.[0] ?? "..").split("..");
  if (!facet) return null;
  return (
    <form
      key={`${from}..${to}`}
      data-part="range"
      data-facet={props.name}
      onSubmit={(event) => {
        event.preventDefault();
        const ends = new FormData(event.currentTarget);
        store.range(props.name, String(ends.get("from")), String(ends.get("to")));
      }}
    >
      <fieldset>
        <legend>{props.title ?? facet.title}</legend>
        <label>
          {texts.from}
          <input type={props.type ?? "number"} name="from" defaultValue={from} />
        </label>
        <label>
          {texts.to}
          <input type={props.type ?? "number"} name="to" defaultValue={to} />
        </label>
        <button type="submit">{texts.apply}</button>
      </fieldset>
    </form>
  );
}

/** The chosen values, each with a way to take it back. */
export function ChosenFilters() {
  const { store, state, texts } = useSearch();
  const chosen = state.answer?.chosen ?? [];
  if (chosen.length === 0) return null;
  return (
    <ul data-part="chosen" aria-label={texts.chosen}>
      {chosen.map((one) => (
        <li key={`${one.facet} ${one.value}`}>
          <button
            type="button"
            aria-label={texts.remove(one.label)}
            onClick={() => store.toggle(one.facet, one.value)}
          >
            {one.label} <span aria-hidden="true">×</span>
          </button>
        </li>
      ))}
      {chosen.length > 1 && (
        <li>
          <button type="button" onClick={() => store.clear()}>
            {texts.removeAll}
          </button>
        </li>
      )}
    </ul>
  );
}
