import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Slider } from "radix-ui";
import { useState } from "react";
import type { IndexField, IndexShape } from "../api";
import { items, moved, names, read, withItem, without, withValue, written } from "./definitionText";
import { OrderedList } from "./orderedList";

const GREATEST = 10;
const STEP = 0.5;

/** What is chosen most often of an endpoint, to be set without writing YAML. */
export function EndpointForm(props: {
  text: string;
  shape: IndexShape;
  onText: (text: string) => void;
}) {
  const { text, shape, onText } = props;
  const document = read(text);
  if (!document)
    return (
      <p className="text-quiet">
        <Trans>The definition cannot be read as it stands.</Trans>
      </p>
    );
  const facets = names(document, "facets");
  const faceted = facets.map((name) => document.getIn(["facets", name, "field"]) ?? name);
  const sorts = names(document, "sorts");
  const shown = items(document, "show");
  const usable = (use: string, without: unknown[]) =>
    shape.fields
      .filter((field) => field.uses.includes(use) && !without.includes(field.name))
      .map((field) => field.name);
  return (
    <div className="flex flex-col gap-4">
      <h2 className="sr-only">
        <Trans>Settings</Trans>
      </h2>
      <Title
        key={String(document.get("title"))}
        title={String(document.get("title") ?? "")}
        onTitle={(title) => onText(withValue(text, ["title"], title === "" ? undefined : title))}
      />
      <Weights {...props} />
      <label className="flex flex-wrap items-center gap-2">
        <span className="font-semibold">
          <Trans>A result has</Trans>
        </span>
        <select
          className="rounded border border-line bg-surface px-2 py-0.5"
          value={String(document.get("words") ?? "all")}
          onChange={(event) => onText(withValue(text, ["words"], event.target.value))}
        >
          {wordChoices(String(document.get("words") ?? "all")).map(([value, label]) => (
            <option key={value} value={value}>
              {label}
            </option>
          ))}
        </select>
      </label>
      <OrderedList
        title={t`Facets`}
        items={facets}
        offers={usable("facet", faceted)}
        detail={(name) => <span>{String(document.getIn(["facets", name, "title"]) ?? "")}</span>}
        onMove={(from, to) => onText(moved(text, "facets", from, to))}
        onRemove={(at) => onText(without(text, "facets", at))}
        onAdd={(name) => onText(withValue(text, ["facets", name], { field: name }))}
      />
      <OrderedList
        title={t`Orders`}
        items={sorts}
        offers={sortOffers(shape.fields).filter((offer) => !sorts.includes(offer))}
        detail={(name) => (
          <code className="font-mono text-xs">
            {written(document, document.getIn(["sorts", name], true))}
          </code>
        )}
        onMove={(from, to) => onText(moved(text, "sorts", from, to))}
        onRemove={(at) => onText(without(text, "sorts", at))}
        onAdd={(name) => onText(withValue(text, ["sorts", name], sortOf(name)))}
      />
      <OrderedList
        title={t`Shown fields`}
        items={shown}
        offers={usable("show", shown)}
        onMove={(from, to) => onText(moved(text, "show", from, to))}
        onRemove={(at) => onText(without(text, "show", at))}
        onAdd={(name) => onText(withItem(text, "show", name))}
      />
    </div>
  );
}

/** The title takes effect when one leaves it, so that it can be empty in between. */
function Title(props: { title: string; onTitle: (title: string) => void }) {
  const [title, setTitle] = useState(props.title);
  return (
    <label className="flex items-center gap-2">
      <span className="font-semibold">
        <Trans>Title</Trans>
      </span>
      <input
        className="min-w-0 grow rounded border border-line bg-surface px-2 py-0.5"
        value={title}
        onChange={(event) => setTitle(event.target.value)}
        onBlur={() => title !== props.title && props.onTitle(title)}
        onKeyDown={(event) => event.key === "Enter" && props.onTitle(title)}
      />
    </label>
  );
}

function wordChoices(current: string): [string, string][] {
  const choices: [string, string][] = [
    ["all", t`all words`],
    ["75%", t`three of four words`],
    ["50%", t`half of the words`],
    ["any", t`any of the words`],
  ];
  return choices.some(([value]) => value === current) ? choices : [...choices, [current, current]];
}

const DESCENDING = t` (falling)`;

function sortOffers(fields: IndexField[]): string[] {
  const sortable = fields.filter((field) => field.uses.includes("sort")).map((f) => f.name);
  return ["relevance", ...sortable.flatMap((name) => [name, name + DESCENDING])];
}

function sortOf(offer: string): string {
  return offer.endsWith(DESCENDING) ? `-${offer.slice(0, -DESCENDING.length)}` : offer;
}

/** The searched fields and how much a word in each counts. */
function Weights(props: { text: string; shape: IndexShape; onText: (text: string) => void }) {
  const document = read(props.text);
  const own = document ? names(document, "search") : [];
  const searchable = props.shape.fields.filter((field) => field.uses.includes("search"));
  const usual = searchable.filter((field) => field.type === "text");
  const searched = own.length > 0 ? own : usual.map((field) => field.name);
  const weight = (name: string) =>
    own.length > 0
      ? Number(document?.getIn(["search", name]) ?? 1)
      : (searchable.find((field) => field.name === name)?.weight ?? 1);
  const all = (changes: Record<string, number | undefined>) =>
    Object.fromEntries(
      [...searched, ...Object.keys(changes).filter((name) => !searched.includes(name))]
        .map((name) => [name, name in changes ? changes[name] : weight(name)] as const)
        .filter(([, value]) => value !== undefined),
    );
  const change = (name: string, value: number | undefined) => {
    if (own.includes(name) && (value !== undefined || own.length > 1)) {
      props.onText(withValue(props.text, ["search", name], value));
    } else {
      props.onText(withValue(props.text, ["search"], all({ [name]: value })));
    }
  };
  return (
    <section aria-label={t`Searched fields`}>
      <h3 className="font-semibold">
        <Trans>Searched fields</Trans>
      </h3>
      {own.length === 0 && (
        <p className="text-sm text-quiet">
          <Trans>As the index says. Change a weight to choose for this endpoint.</Trans>
        </p>
      )}
      <ul className="mt-0.5">
        {searched.map((name) => (
          <li key={name} className="flex items-center gap-3 border-t border-line py-1">
            <span className="w-32 shrink-0 break-words">{name}</span>
            <Slider.Root
              className="relative flex h-5 grow touch-none items-center select-none"
              min={Math.min(STEP, weight(name))}
              max={Math.max(GREATEST, weight(name))}
              step={STEP}
              value={[weight(name)]}
              onValueChange={([value]) => change(name, value)}
            >
              <Slider.Track className="relative h-1 grow rounded bg-line">
                <Slider.Range className="absolute h-full rounded bg-accent" />
              </Slider.Track>
              <Slider.Thumb
                aria-label={t`Weight of ${name}`}
                className="block size-4 rounded-full border-2 border-accent bg-surface"
              />
            </Slider.Root>
            <span className="w-8 text-right">{weight(name)}</span>
            <button
              type="button"
              className="text-sm text-accent underline"
              aria-label={t`leave out ${name}`}
              disabled={searched.length === 1}
              onClick={() => change(name, undefined)}
            >
              <Trans>leave out</Trans>
            </button>
          </li>
        ))}
      </ul>
      {searchable.some((field) => !searched.includes(field.name)) && (
        <select
          aria-label={t`Search another field`}
          className="mt-1 rounded border border-line bg-surface px-2 py-0.5 text-sm"
          value=""
          onChange={(event) => change(event.target.value, 1)}
        >
          <option value="">
            <Trans>search another field …</Trans>
          </option>
          {searchable
            .filter((field) => !searched.includes(field.name))
            .map((field) => (
              <option key={field.name}>{field.name}</option>
            ))}
        </select>
      )}
    </section>
  );
}
