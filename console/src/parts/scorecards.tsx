import { t } from "@lingui/core/macro";
import { Plural, Trans } from "@lingui/react/macro";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { lazy, Suspense, useMemo, useState } from "react";
import { useSearchParams } from "react-router";
import { api, type Endpoint, type Scorecard, type Scored } from "../api";
import { count } from "../format";
import { Button } from "./button";
import { type Column, DataTable, numbers } from "./dataTable";
import { Judge } from "./judge";
import { ErrorNotice } from "./notice";
import { Pick } from "./pick";

const ScoreChart = lazy(() => import("./scoreChart"));

/** How good searches are by people's grades: now, before, and with another edition. */
export function Scorecards(props: { editions: number[]; endpoints: Endpoint[] }) {
  const all = useQuery({ queryKey: ["scorecards"], queryFn: api.scorecards });
  const [chosen, setChosen] = useState<string>();
  const [params] = useSearchParams();
  const asked = params.get("grade") ?? "";
  const [judging, setJudging] = useState(asked !== "");
  const cards = (all.data ?? []).filter((c) => props.endpoints.some((e) => e.name === c.endpoint));
  const card = cards.find((c) => c.name === chosen) ?? cards[0];
  return (
    <section className="rounded border border-line bg-surface px-4 py-3" aria-label={t`Scorecards`}>
      <div className="flex flex-wrap items-center gap-3">
        <h2 className="text-lg font-semibold">
          <Trans>Search quality</Trans>
        </h2>
        {cards.length > 1 && card && (
          <Pick
            label={t`Scorecard`}
            value={card.name}
            options={cards.map((c) => ({ value: c.name, label: c.name }))}
            onPick={setChosen}
          />
        )}
        <span className="ml-auto">
          <Button changes onClick={() => setJudging(!judging)}>
            {judging ? t`Done with grading` : t`Grade results`}
          </Button>
        </span>
      </div>
      {!card && !judging && (
        <p className="mt-1 text-quiet">
          <Trans>
            No scorecard yet. Grade the results of a few queries to measure every later change
            against them.
          </Trans>
        </p>
      )}
      {judging && <Judge card={card} endpoints={props.endpoints} words={asked} />}
      {card && <Card key={card.name} card={card} editions={props.editions} />}
    </section>
  );
}

function Card({ card, editions }: { card: Scorecard; editions: number[] }) {
  const queries = useQueryClient();
  const history = useQuery({
    queryKey: ["scores", card.name],
    queryFn: () => api.scores(card.name),
  });
  const score = useMutation({
    mutationFn: (edition: number) => api.score(card.name, edition),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["scores", card.name] }),
  });
  return (
    <>
      <div className="mt-2 flex flex-wrap items-center gap-3">
        <span className="text-quiet">
          <Trans>
            {card.name}: {count(card.queries.length)}{" "}
            <Plural value={card.queries.length} one="query" other="queries" /> of {card.endpoint},
            first {card.top} results
          </Trans>
        </span>
        {editions.map((edition) => (
          <Button
            changes
            key={edition}
            onClick={() => score.mutate(edition)}
            busy={score.isPending}
          >
            <Trans>Score edition {edition}</Trans>
          </Button>
        ))}
      </div>
      {score.error && <ErrorNotice error={score.error} />}
      {score.data && <Outcome scored={score.data} />}
      {(history.data?.length ?? 0) > 1 && (
        <Suspense
          fallback={
            <p className="text-quiet">
              <Trans>Loading the chart …</Trans>
            </p>
          }
        >
          <ScoreChart entries={history.data ?? []} />
        </Suspense>
      )}
    </>
  );
}

const three = (n: number) => n.toFixed(3);

type QueryScore = Scored["queries"][number];

function Outcome({ scored }: { scored: Scored }) {
  const columns = useMemo(
    (): Column<QueryScore>[] => [
      { title: t`Edition ${scored.edition}`, value: (query) => query.words },
      numbers(`nDCG@${scored.top}`, (query) => query.score.ndcg, three),
      numbers("MRR", (query) => query.score.reciprocalRank, three),
      numbers(t`Precision`, (query) => query.score.precision, three),
      numbers(t`Recall`, (query) => query.score.recall, three),
      {
        title: t`Not among the first`,
        value: (query) => query.problem ?? query.missing.join(", "),
        className: "text-quiet",
      },
    ],
    [scored.edition, scored.top],
  );
  return (
    <div className="mt-2">
      <DataTable
        label={t`Scores`}
        columns={columns}
        items={scored.queries}
        identity={(query) => query.words}
        last={{ words: t`All`, score: scored.total, missing: [] }}
      />
    </div>
  );
}
