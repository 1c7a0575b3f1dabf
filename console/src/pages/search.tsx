import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { ChevronLeft, ChevronRight, X } from "lucide-react";
import { useSearchParams } from "react-router";
import { api, type CuratedRule, type SearchAnswer } from "../api";
import { count } from "../format";
import { NoEndpointYet, useChosenEndpoint } from "../parts/chosenIndex";
import { FacetBox } from "../parts/facetBox";
import { ErrorNotice } from "../parts/notice";
import { Pick } from "../parts/pick";
import { Results } from "../parts/resultList";
import { Filter, Words } from "../parts/searchWords";
import { JustAt } from "../parts/time";

/** Tries an endpoint as its callers use it. All that is asked stands in the page's address. */
export function SearchPage() {
  const [params, setParams] = useSearchParams();
  const { endpoint, endpoints, known, error: failed } = useChosenEndpoint();
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

  if (failed) return <ErrorNotice error={failed} />;
  if (known && !endpoint) return <NoEndpointYet />;
  return (
    <div className="flex flex-col gap-4">
      <h1 className="sr-only">
        <Trans>Search</Trans>
      </h1>
      <div className="flex flex-wrap items-center gap-2">
        <Words
          words={params.get("q") ?? ""}
          onWords={(words) => change((next) => (words ? next.set("q", words) : next.delete("q")))}
          endpoint={endpoint?.name}
        />
        {endpoint && endpoints.length > 1 && (
          <Pick
            label={t`Endpoint`}
            value={endpoint.name}
            options={endpoints.map((e) => ({ value: e.name, label: e.name }))}
            onPick={(name) => setParams({ endpoint: name, q: params.get("q") ?? "" })}
          />
        )}
        {endpoint && (
          <Pick
            label={t`Sort`}
            value={params.get("sort") ?? Object.keys(endpoint.sorts)[0] ?? ""}
            options={Object.keys(endpoint.sorts).map((s) => ({ value: s, label: t`by ${s}` }))}
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
          <Trans>Did you mean </Trans>
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
              <Curated rules={answer.data.curated ?? []} />
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
            <aside aria-label={t`Facets`} className="flex flex-col gap-4">
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

/** What the address says to the page and not to the endpoint. */
const OF_PAGE = ["endpoint", "index"];

/** The page's address as the endpoint's parameters. */
export function queryOf(params: URLSearchParams): string {
  const query = new URLSearchParams(params);
  for (const name of OF_PAGE) query.delete(name);
  if (query.get("q")) query.set("typing", "true");
  return query.toString();
}

/** The same as a body, for calls that take one. */
export function bodyOf(params: URLSearchParams): Record<string, unknown> {
  const own = new Set([...OF_PAGE, "q", "sort", "page", "size", "where", "near"]);
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
          {answer.total && !answer.total.exact && t`at least `}
          {answer.total &&
            t`${count(answer.total.count)} ${plural(answer.total.count, { one: "result", other: "results" })}`}
        </strong>{" "}
        <span className="text-quiet">
          <Trans>
            in {answer.millis} ms
            {answer.asOf.time && (
              <Trans>
                , up to date as of <JustAt iso={answer.asOf.time} />
              </Trans>
            )}
            , edition {answer.asOf.edition}
          </Trans>
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
          <span className="sr-only">
            <Trans>(take away)</Trans>
          </span>
        </button>
      ))}
      {answer.chosen.length > 1 && (
        <button type="button" onClick={props.onClear} className="text-accent underline">
          <Trans>take all away</Trans>
        </button>
      )}
    </div>
  );
}

/** What curations do to these results, and say beside them. */
function Curated(props: { rules: CuratedRule[] }) {
  if (props.rules.length === 0) return null;
  return (
    <ul className="mb-3 rounded border border-line bg-surface px-4 py-2" aria-label={t`Curation`}>
      {props.rules.map(({ curation, rule, message, link }) => (
        <li key={`${curation} ${rule}`} className="flex flex-wrap items-baseline gap-x-3">
          {message && (
            <strong>
              {link ? (
                <a href={link} className="text-accent underline">
                  {message}
                </a>
              ) : (
                message
              )}
            </strong>
          )}
          <span className="text-sm text-quiet">
            <Trans>
              rule {rule} of curation {curation}
            </Trans>
          </span>
        </li>
      ))}
    </ul>
  );
}

function Pages(props: { answer: SearchAnswer; onPage: (page: number) => void }) {
  const { page, pages = 1 } = props.answer;
  if (pages <= 1) return null;
  const button =
    "inline-flex items-center gap-1 rounded border border-line bg-surface px-2.5 py-1 enabled:hover:border-quiet disabled:opacity-60";
  return (
    <nav aria-label={t`Pages of results`} className="mt-3 flex items-center justify-between">
      <button
        type="button"
        className={button}
        disabled={page <= 1}
        onClick={() => props.onPage(page - 1)}
      >
        <ChevronLeft size={16} aria-hidden /> <Trans>Before</Trans>
      </button>
      <span className="text-quiet">
        <Trans>
          page {count(page)} of {count(pages)}
        </Trans>
      </span>
      <button
        type="button"
        className={button}
        disabled={page >= pages}
        onClick={() => props.onPage(page + 1)}
      >
        <Trans>Next</Trans> <ChevronRight size={16} aria-hidden />
      </button>
    </nav>
  );
}
