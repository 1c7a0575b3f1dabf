import { t } from "@lingui/core/macro";
import { Plural, Trans } from "@lingui/react/macro";
import { useMutation, useQuery } from "@tanstack/react-query";
import { ArrowDown, ArrowUp } from "lucide-react";
import { useState } from "react";
import { api, type ComparedQuery, type ComparedResult, type Endpoint } from "../api";
import { count } from "../format";
import { Button } from "./button";
import { Asking, ErrorNotice } from "./notice";
import { Pick } from "./pick";
import { Scrolled } from "./scrolled";
import { Why } from "./why";

/** Two editions asked the same queries, side by side. */
export function CompareEditions(props: { live: number; other: number; endpoints: Endpoint[] }) {
  const [chosen, setChosen] = useState<string>();
  const [words, setWords] = useState("");
  const endpoint = chosen ?? props.endpoints[0]?.name;
  const compare = useMutation({
    mutationFn: () =>
      api.compare(
        endpoint ?? "",
        words
          .split("\n")
          .map((line) => line.trim())
          .filter((line) => line !== ""),
      ),
  });
  if (!endpoint) return null;
  const found = compare.data;
  const different = found?.queries.filter((q) => q.problem || !isSame(q)) ?? [];
  return (
    <section className="rounded border border-line bg-surface px-4 py-3" aria-label={t`Comparison`}>
      <h2 className="text-lg font-semibold">
        <Trans>
          How results change from edition {props.live} to edition {props.other}
        </Trans>
      </h2>
      <div className="mt-2 flex flex-wrap items-end gap-3">
        <label className="grow">
          <span className="text-sm text-quiet">
            <Trans>One query per line. Leave empty to use the most frequent queries.</Trans>
          </span>
          <textarea
            value={words}
            onChange={(event) => setWords(event.target.value)}
            rows={2}
            spellCheck={false}
            className="mt-1 block w-full rounded border border-line bg-ground px-2 py-1"
          />
        </label>
        {props.endpoints.length > 1 && (
          <Pick
            label={t`Endpoint`}
            value={endpoint}
            options={props.endpoints.map((e) => ({ value: e.name, label: e.name }))}
            onPick={setChosen}
          />
        )}
        <Button onClick={() => compare.mutate()} busy={compare.isPending}>
          <Trans>Compare</Trans>
        </Button>
      </div>
      {compare.error && <ErrorNotice error={compare.error} />}
      {found && (
        <>
          <p className="mt-3">
            <Trans>
              <strong>{(100 * found.changedShare).toFixed(1)}%</strong> of the first {found.top}{" "}
              results of {count(found.queries.length)}{" "}
              <Plural value={found.queries.length} one="query" other="queries" /> differ;{" "}
              {count(found.queries.length - different.length)}{" "}
              <Plural value={found.queries.length - different.length} one="query" other="queries" />{" "}
              unchanged.
            </Trans>
          </p>
          {found.toZero.length > 0 && (
            <p className="text-warn">
              <Trans>Find nothing any more: {found.toZero.join(", ")}</Trans>
            </p>
          )}
          {found.fromZero.length > 0 && (
            <p>
              <Trans>No results before: {found.fromZero.join(", ")}</Trans>
            </p>
          )}
          <div className="mt-2 flex flex-col divide-y divide-line">
            {different.map((query) => (
              <Query
                key={query.words}
                endpoint={found.endpoint}
                query={query}
                left={found.left}
                right={found.right}
              />
            ))}
          </div>
        </>
      )}
    </section>
  );
}

function isSame(query: ComparedQuery) {
  return query.sameOrder && query.leftTotal === query.rightTotal;
}

interface Asked {
  endpoint: string;
  query: ComparedQuery;
  left: number;
  right: number;
}

function Query({ endpoint, query, left, right }: Asked) {
  const [key, setKey] = useState<string>();
  if (query.problem) {
    return (
      <p className="py-2 text-warn">
        {query.words}: {query.problem}
      </p>
    );
  }
  return (
    <details className="py-2">
      <summary className="cursor-pointer">
        <strong>{query.words}</strong>{" "}
        <span className="text-quiet">
          <Trans>
            {count(query.leftTotal)} → {count(query.rightTotal)} results,{" "}
            {query.changed === 0
              ? t`same results, different order`
              : t`${query.changed} of the first results changed`}
          </Trans>
        </span>
      </summary>
      <div className="mt-2 grid gap-4 sm:grid-cols-2">
        <Results title={t`Edition ${left}`} results={query.left} gone={t`goes`} onPick={setKey} />
        <Results
          title={t`Edition ${right}`}
          results={query.right}
          gone={t`comes`}
          moves
          onPick={setKey}
        />
      </div>
      {key && (
        <Reasons key={key} endpoint={endpoint} words={query.words} of={key} {...{ left, right }} />
      )}
    </details>
  );
}

/** Why a record stands where it does, in both editions. */
function Reasons(props: {
  endpoint: string;
  words: string;
  of: string;
  left: number;
  right: number;
}) {
  const { endpoint, words, of, left, right } = props;
  const both = useQuery({
    queryKey: ["explain", endpoint, words, of, left, right],
    queryFn: () => api.explainBoth(endpoint, words, of, left, right),
  });
  if (both.error) return <ErrorNotice error={both.error} />;
  if (!both.data) return <Asking />;
  return (
    <div className="mt-2 grid gap-4 rounded bg-ground px-3 py-2 text-sm sm:grid-cols-2">
      {([left, right] as const).map((edition) => {
        const why = edition === left ? both.data.left : both.data.right;
        return (
          <Scrolled key={edition} label={t`Edition ${edition}`} className="min-w-0">
            <h4 className="text-quiet">
              <Trans>
                {of} in edition {edition}
              </Trans>
            </h4>
            {why ? (
              <ul>
                <Why part={why} />
              </ul>
            ) : (
              <p>
                <Trans>Not in this edition.</Trans>
              </p>
            )}
          </Scrolled>
        );
      })}
    </div>
  );
}

function Results(props: {
  title: string;
  results: ComparedResult[];
  gone: string;
  moves?: boolean;
  onPick: (key: string) => void;
}) {
  return (
    <div>
      <h3 className="text-sm text-quiet">{props.title}</h3>
      <ol className="mt-1">
        {props.results.map((result, place) => (
          <li key={result.key} className="flex gap-2">
            <span className="w-6 text-right text-quiet">{place + 1}</span>
            <button
              type="button"
              title={t`Explain this position`}
              className="min-w-0 grow truncate text-left hover:underline"
              onClick={() => props.onPick(result.key)}
            >
              {result.label} <span className="text-quiet">{result.key}</span>
            </button>
            <Move result={result} place={place + 1} gone={props.gone} moves={props.moves} />
          </li>
        ))}
      </ol>
      {props.results.length === 0 && (
        <p className="text-quiet">
          <Trans>nothing</Trans>
        </p>
      )}
    </div>
  );
}

function Move(props: { result: ComparedResult; place: number; gone: string; moves?: boolean }) {
  const other = props.result.other;
  if (other === undefined) return <span className="font-semibold text-accent">{props.gone}</span>;
  const moved = other - props.place;
  if (!props.moves || moved === 0) return null;
  return (
    <span className="inline-flex items-center text-quiet">
      {moved > 0 ? (
        <ArrowUp size={14} aria-label={t`up`} />
      ) : (
        <ArrowDown size={14} aria-label={t`down`} />
      )}
      {Math.abs(moved)}
    </span>
  );
}
