import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { ChevronLeft, ChevronRight, Search, X } from "lucide-react";
import { Checkbox } from "radix-ui";
import { useEffect, useId, useRef, useState } from "react";
import { useSearchParams } from "react-router";
import {
  api,
  type Explanation,
  type Facet,
  type FacetValue,
  type Result,
  type SearchAnswer,
} from "../api";
import { count, plural, timeOfDay } from "../format";
import { ErrorNotice } from "../parts/notice";
import { Pick } from "../parts/pick";
import { Why } from "../parts/why";

const TYPING_PAUSE_MILLIS = 120;

/** Tries an endpoint as its callers use it. All that is asked stands in the page's address. */
export function SearchPage() {
  const [params, setParams] = useSearchParams();
  const endpoints = useQuery({ queryKey: ["endpoints"], queryFn: api.endpoints });
  const endpoint =
    endpoints.data?.find((e) => e.name === params.get("endpoint")) ?? endpoints.data?.[0];
  const query = queryOf(params);
  const answer = useQuery({
    queryKey: ["search", endpoint?.name, query],
    queryFn: () => api.search(endpoint?.name ?? "", query),
    enabled: endpoint !== undefined,
    placeholderData: keepPreviousData,
    refetchInterval: 5000,
  });

  const change = (edit: (next: URLSearchParams) => void) => {
    const next = new URLSearchParams(params);
    next.delete("page");
    edit(next);
    setParams(next, { replace: true });
  };
  const toggle = (facet: string, value: string) =>
    change((next) => {
      const values = next.getAll(facet);
      next.delete(facet);
      const left = values.includes(value) ? values.filter((v) => v !== value) : [...values, value];
      for (const v of left) next.append(facet, v);
    });

  if (endpoints.error) return <ErrorNotice error={endpoints.error} />;
  if (endpoints.data && !endpoint) {
    return (
      <p>
        There is no endpoint yet. Define one and apply it: <code>mnemex apply FILES</code>
      </p>
    );
  }
  return (
    <div className="flex flex-col gap-4">
      <h1 className="sr-only">Search</h1>
      <div className="flex flex-wrap items-center gap-2">
        <Words
          words={params.get("q") ?? ""}
          onWords={(words) => change((next) => (words ? next.set("q", words) : next.delete("q")))}
          endpoint={endpoint?.name}
        />
        {endpoint && (endpoints.data?.length ?? 0) > 1 && (
          <Pick
            label="Endpoint"
            value={endpoint.name}
            options={(endpoints.data ?? []).map((e) => ({ value: e.name, label: e.name }))}
            onPick={(name) => setParams({ endpoint: name, q: params.get("q") ?? "" })}
          />
        )}
        {endpoint && (
          <Pick
            label="Sort"
            value={params.get("sort") ?? Object.keys(endpoint.sorts)[0] ?? ""}
            options={Object.keys(endpoint.sorts).map((s) => ({ value: s, label: `by ${s}` }))}
            onPick={(sort) => change((next) => next.set("sort", sort))}
          />
        )}
      </div>
      <Filter
        filter={params.get("where") ?? ""}
        onFilter={(where) =>
          change((next) => (where ? next.set("where", where) : next.delete("where")))
        }
      />
      {answer.error && <ErrorNotice error={answer.error} />}
      {answer.data?.didYouMean && (
        <p>
          Did you mean{" "}
          <button
            type="button"
            className="text-accent underline"
            onClick={() => change((next) => next.set("q", answer.data?.didYouMean ?? ""))}
          >
            {answer.data.didYouMean}
          </button>
          ?
        </p>
      )}
      {answer.data && (
        <>
          <Summary
            answer={answer.data}
            onRemove={toggle}
            onClear={() =>
              change((next) => {
                for (const facet of Object.keys(answer.data.facets)) next.delete(facet);
              })
            }
          />
          <div className="grid gap-6 md:grid-cols-[minmax(0,1fr)_15.5rem]">
            <div>
              <Results
                answer={answer.data}
                explain={(key) => api.explain(endpoint?.name ?? "", key, bodyOf(params))}
              />
              <Pages
                answer={answer.data}
                onPage={(page) => {
                  change((next) => next.set("page", String(page)));
                  window.scrollTo({ top: 0 });
                }}
              />
            </div>
            <aside aria-label="Facets" className="flex flex-col gap-4">
              {Object.entries(answer.data.facets).map(([name, facet]) => (
                <FacetBox
                  key={name}
                  facet={facet}
                  find={(begins) => api.facet(endpoint?.name ?? "", name, begins, queryOf(params))}
                  onToggle={(value) => toggle(name, value)}
                />
              ))}
            </aside>
          </div>
        </>
      )}
    </div>
  );
}

/** The page's address as the endpoint's parameters. */
export function queryOf(params: URLSearchParams): string {
  const query = new URLSearchParams(params);
  query.delete("endpoint");
  if (query.get("q")) query.set("typing", "true");
  return query.toString();
}

/** The same as a body, for calls that take one. */
export function bodyOf(params: URLSearchParams): Record<string, unknown> {
  const own = new Set(["endpoint", "q", "sort", "page", "size", "where", "near"]);
  const facets: Record<string, string[]> = {};
  for (const name of params.keys()) {
    if (!own.has(name)) facets[name] = params.getAll(name);
  }
  return {
    q: params.get("q") ?? "",
    typing: true,
    where: params.get("where"),
    sort: params.get("sort"),
    near: params.get("near"),
    facets,
  };
}

/** A filter as developers write it; applied when it is finished, not while it is typed. */
function Filter(props: { filter: string; onFilter: (filter: string) => void }) {
  const [typed, setTyped] = useState(props.filter);
  return (
    <form
      className="flex gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        props.onFilter(typed.trim());
      }}
    >
      <label className="flex grow items-center gap-2">
        <span className="text-sm text-quiet">Filter</span>
        <input
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
          onBlur={() => typed.trim() !== props.filter && props.onFilter(typed.trim())}
          placeholder="height_cm < 50 AND EXISTS (seen WHERE kind = 'pest' AND seen_on > DATE '2026-05-01')"
          className="grow rounded border border-line bg-surface px-2 py-1 font-mono text-sm placeholder:text-quiet"
          spellCheck={false}
        />
      </label>
    </form>
  );
}

function Words(props: { words: string; onWords: (words: string) => void; endpoint?: string }) {
  const [typed, setTyped] = useState(props.words);
  const { words, onWords } = props;
  const list = useId();
  const suggestions = useQuery({
    queryKey: ["suggest", props.endpoint, words],
    queryFn: () => api.suggest(props.endpoint ?? "", words),
    enabled: props.endpoint !== undefined && words.trim().length > 1,
    placeholderData: keepPreviousData,
  });
  const sent = useRef(words);
  useEffect(() => {
    // Words that did not come from here, such as a correction that was taken.
    if (words !== sent.current) {
      sent.current = words;
      setTyped(words);
    }
  }, [words]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: only typing starts the pause anew
  useEffect(() => {
    if (typed === words) return;
    const pause = setTimeout(() => {
      sent.current = typed;
      onWords(typed);
    }, TYPING_PAUSE_MILLIS);
    return () => clearTimeout(pause);
  }, [typed]);
  return (
    <label className="relative min-w-60 grow">
      <span className="sr-only">Words to search for</span>
      <Search size={17} className="absolute top-2.5 left-3 text-quiet" aria-hidden />
      <input
        type="search"
        value={typed}
        onChange={(event) => setTyped(event.target.value)}
        list={list}
        placeholder='shade fern, "slug damage", -rust, harts*'
        className="w-full rounded border border-line bg-surface py-1.5 pr-3 pl-9 text-lg placeholder:text-quiet"
      />
      <datalist id={list}>
        {suggestions.data?.suggestions.map((one) => (
          <option key={one.field + one.text} value={one.text} />
        ))}
      </datalist>
    </label>
  );
}

function Summary(props: {
  answer: SearchAnswer;
  onRemove: (facet: string, value: string) => void;
  onClear: () => void;
}) {
  const { answer } = props;
  return (
    <div className="flex flex-wrap items-center gap-x-3 gap-y-2">
      <output>
        <strong>
          {answer.total.exact ? "" : "at least "}
          {plural(answer.total.count, "result")}
        </strong>{" "}
        <span className="text-quiet">
          in {answer.millis} ms
          {answer.asOf.time && <>, true as of {timeOfDay(answer.asOf.time)}</>}, edition{" "}
          {answer.asOf.edition}
        </span>
      </output>
      {answer.chosen.map((chosen) => (
        <button
          type="button"
          key={`${chosen.facet} ${chosen.value}`}
          onClick={() => props.onRemove(chosen.facet, chosen.value)}
          className="inline-flex items-center gap-1 rounded-full bg-accent px-2.5 py-0.5 text-on-accent"
        >
          {chosen.label}
          <X size={14} aria-hidden />
          <span className="sr-only">(take away)</span>
        </button>
      ))}
      {answer.chosen.length > 1 && (
        <button type="button" onClick={props.onClear} className="text-accent underline">
          take all away
        </button>
      )}
    </div>
  );
}

function Results({
  answer,
  explain,
}: {
  answer: SearchAnswer;
  explain: (key: string) => Promise<Explanation>;
}) {
  if (answer.results.length === 0) {
    return (
      <p className="rounded border border-line bg-surface p-4">
        Nothing matches all of this. Take a word or a choice away, or write only the beginning of a
        word with a star: <code>fer*</code>
      </p>
    );
  }
  return (
    <ol className="divide-y divide-line rounded border border-line bg-surface">
      {answer.results.map((result) => (
        <ResultItem key={result.key} result={result} explain={explain} />
      ))}
    </ol>
  );
}

/** Fields that stand in the title line or are too long for the line of facts. */
const APART = new Set(["name", "latin_name", "number", "notes"]);

function ResultItem({
  result,
  explain,
}: {
  result: Result;
  explain: (key: string) => Promise<Explanation>;
}) {
  const [why, setWhy] = useState<Explanation>();
  const shown = (field: string) =>
    result.highlights[field]?.[0] ?? escapeHtml(String(result.fields[field] ?? ""));
  const facts = Object.entries(result.fields).filter(
    ([name, value]) => !APART.has(name) && !hasRows(value),
  );
  const fragments = Object.entries(result.highlights)
    .filter(([field]) => field !== "name" && field !== "latin_name")
    .flatMap(([field, list]) => list.map((html) => ({ field, html })));
  const notes = result.fields.notes;
  return (
    <li className="px-4 py-3">
      <div className="flex flex-wrap items-baseline gap-x-2.5">
        <h2 className="text-lg font-semibold">
          <Marked
            html={result.fields.name === undefined ? escapeHtml(result.key) : shown("name")}
          />
        </h2>
        {result.fields.latin_name !== undefined && (
          <em className="text-quiet">
            <Marked html={shown("latin_name")} />
          </em>
        )}
        <span className="ml-auto text-sm text-quiet">
          {result.key}
          {result.score > 0 && (
            <>
              {" · "}
              <button
                type="button"
                aria-expanded={why !== undefined}
                className="underline decoration-dotted"
                onClick={async () => setWhy(why ? undefined : await explain(result.key))}
              >
                score {result.score.toFixed(2)}
              </button>
            </>
          )}
        </span>
      </div>
      {fragments.map((fragment) => (
        <p key={fragment.field + fragment.html}>
          <Marked html={fragment.html} />
        </p>
      ))}
      {fragments.length === 0 && typeof notes === "string" && (
        <p className="line-clamp-2">{notes}</p>
      )}
      {Object.entries(result.rows ?? {}).map(([group, rows]) => (
        <p key={group} className="mt-0.5 text-sm text-quiet">
          {group.replaceAll("_", " ")}{" "}
          <span className="text-ink">{rows.slice(0, 3).map(rowText).join(" · ")}</span>
          {rows.length > 3 && ` and ${count(rows.length - 3)} more`}
        </p>
      ))}
      <p className="mt-0.5 text-sm text-quiet">
        {facts.map(([name, value], i) => (
          <span key={name}>
            {i > 0 && " · "}
            {name.replaceAll("_", " ")} <span className="text-ink">{factText(value)}</span>
          </span>
        ))}
      </p>
      {why && (
        <ul className="mt-2 rounded border border-line bg-ground p-2 text-sm">
          <Why part={why} />
        </ul>
      )}
    </li>
  );
}

function factText(value: unknown): string {
  if (Array.isArray(value)) return value.map(factText).join(", ");
  if (isPlace(value)) return `${value.latitude}, ${value.longitude}`;
  return String(value);
}

/** Rows of a group are told where they matched, not among the facts. */
function hasRows(value: unknown): boolean {
  const first = Array.isArray(value) ? value[0] : value;
  return typeof first === "object" && first !== null && !isPlace(first);
}

function rowText(row: Record<string, unknown>): string {
  return Object.values(row).map(factText).join(", ");
}

function isPlace(value: unknown): value is { latitude: number; longitude: number } {
  return typeof value === "object" && value !== null && "latitude" in value && "longitude" in value;
}

export function escapeHtml(text: string): string {
  return text.replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`);
}

/** Text in which only the service's marks are markup: everything else in it is escaped there. */
function Marked({ html }: { html: string }) {
  const parts = html.split(/<mark>(.*?)<\/mark>/);
  return parts.map((part, i) =>
    i % 2 === 1 ? (
      // biome-ignore lint/suspicious/noArrayIndexKey: parts of a fixed text
      <mark key={i}>{unescapeHtml(part)}</mark>
    ) : (
      unescapeHtml(part)
    ),
  );
}

const ENTITIES: Record<string, string> = {
  "&lt;": "<",
  "&gt;": ">",
  "&quot;": '"',
  "&amp;": "&",
};

/** The characters behind the entities; React escapes them again when it writes them. */
export function unescapeHtml(html: string): string {
  return html.replace(
    /&(?:lt|gt|quot|amp|#(\d+));/g,
    (entity, code) => ENTITIES[entity] ?? String.fromCharCode(Number(code)),
  );
}

function FacetBox(props: {
  facet: Facet;
  find: (begins: string) => Promise<Facet>;
  onToggle: (value: string) => void;
}) {
  const [begins, setBegins] = useState("");
  const [found, setFound] = useState<Facet>();
  const facet = begins && found ? found : props.facet;
  const latest = useRef("");
  const look = (text: string) => {
    setBegins(text);
    latest.current = text;
    // Answers may overtake one another.
    const keep = (answer?: Facet) => latest.current === text && setFound(answer);
    if (text) props.find(text).then(keep, () => keep());
  };
  const most = Math.max(1, ...facet.values.map((v) => v.count));
  const told = facet.statistics;
  if (told) {
    return (
      <section>
        <h3 className="mb-1 font-semibold">{facet.title}</h3>
        <p>
          {told.least} to {told.greatest}
          {told.mean !== undefined && told.mean !== null && (
            <span className="text-quiet">, {told.mean.toFixed(1)} on average</span>
          )}
        </p>
        {told.percentiles && (
          <p className="text-sm text-quiet">
            {Object.entries(told.percentiles)
              .map(([share, value]) => `${share} %: ${value}`)
              .join(" · ")}
          </p>
        )}
      </section>
    );
  }
  if (props.facet.values.length === 0) return null;
  return (
    <fieldset>
      <legend className="mb-1 font-semibold">{facet.title}</legend>
      {props.facet.more && props.facet.searchable && (
        <input
          type="search"
          aria-label={`Find in ${facet.title}`}
          placeholder={`find in ${facet.title.toLowerCase()}`}
          value={begins}
          onChange={(event) => look(event.target.value)}
          className="mb-1 w-full rounded border border-line bg-surface px-2 py-0.5"
        />
      )}
      {begins && facet.values.length === 0 && <p className="text-sm text-quiet">none</p>}
      <ul>
        {facet.values.map((value) => (
          <FacetRow
            key={value.value}
            label={value.label}
            count={value.count}
            chosen={value.chosen}
            share={value.count / most}
            split={value.split}
            onToggle={() => props.onToggle(value.value)}
          />
        ))}
      </ul>
      {facet.more && <p className="text-sm text-quiet">and more</p>}
    </fieldset>
  );
}

function FacetRow(props: {
  label: string;
  count: number;
  chosen: boolean;
  share: number;
  split?: FacetValue[];
  onToggle: () => void;
}) {
  const id = useId();
  return (
    <li className="relative flex flex-wrap items-center gap-x-2 py-px">
      <Checkbox.Root
        id={id}
        checked={props.chosen}
        onCheckedChange={props.onToggle}
        className="grid size-4 shrink-0 place-items-center rounded-sm border border-quiet bg-surface data-[state=checked]:border-accent data-[state=checked]:bg-accent"
      >
        <Checkbox.Indicator className="text-on-accent">
          <svg viewBox="0 0 10 10" width="10" height="10" aria-hidden="true">
            <path d="M1.5 5.5 4 8l4.5-6" fill="none" stroke="currentColor" strokeWidth="1.8" />
          </svg>
        </Checkbox.Indicator>
      </Checkbox.Root>
      <label htmlFor={id} className="flex grow cursor-pointer justify-between gap-2">
        <span className={props.chosen ? "font-semibold" : ""}>{props.label}</span>
        <span className="text-quiet">{count(props.count)}</span>
      </label>
      {props.split && props.split.length > 0 && (
        <span className="basis-full truncate pl-6 text-sm text-quiet">
          {props.split
            .slice(0, 3)
            .map((value) => `${value.label} ${count(value.count)}`)
            .join(", ")}
        </span>
      )}
      <span
        aria-hidden
        className="absolute bottom-0 left-6 h-px bg-accent opacity-50"
        style={{ width: `calc(${props.share} * (100% - 1.5rem))` }}
      />
    </li>
  );
}

function Pages(props: { answer: SearchAnswer; onPage: (page: number) => void }) {
  const { page, pages } = props.answer;
  if (pages <= 1) return null;
  const button =
    "inline-flex items-center gap-1 rounded border border-line bg-surface px-2.5 py-1 enabled:hover:border-quiet disabled:opacity-60";
  return (
    <nav aria-label="Pages of results" className="mt-3 flex items-center justify-between">
      <button
        type="button"
        className={button}
        disabled={page <= 1}
        onClick={() => props.onPage(page - 1)}
      >
        <ChevronLeft size={16} aria-hidden /> Before
      </button>
      <span className="text-quiet">
        page {count(page)} of {count(pages)}
      </span>
      <button
        type="button"
        className={button}
        disabled={page >= pages}
        onClick={() => props.onPage(page + 1)}
      >
        Next <ChevronRight size={16} aria-hidden />
      </button>
    </nav>
  );
}
