import { t } from "@lingui/core/macro";
import { Plural, Trans } from "@lingui/react/macro";
import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { type Analyser, api, type TriedAnalyser } from "../api";
import { count } from "../format";
import { Button } from "./button";
import { ErrorNotice } from "./notice";
import { Pick } from "./pick";

/** Tries an analyser on what a field holds and on what people searched for. */
export function FieldTrial({ analysers }: { analysers: Analyser[] }) {
  const endpoints = useQuery({ queryKey: ["endpoints"], queryFn: api.endpoints });
  const indexes = [...new Set((endpoints.data ?? []).map((endpoint) => endpoint.index))];
  const [picked, setPicked] = useState<string>();
  const index = picked ?? indexes[0];
  const shape = useQuery({
    queryKey: ["shape", index],
    queryFn: () => api.shape(index ?? ""),
    enabled: index !== undefined,
  });
  const texts = (shape.data?.fields ?? []).filter((field) => field.analyser !== undefined);
  const [chosen, setChosen] = useState<string>();
  const field = texts.find((one) => one.name === chosen) ?? texts[0];
  const [analyser, setAnalyser] = useState("words");
  const trial = useMutation({
    mutationFn: () => api.tryOnField(index ?? "", field?.name ?? "", analyser),
  });
  if (!index || !field) return null;
  return (
    <section className="rounded border border-line bg-surface px-4 py-3" aria-label={t`Trial`}>
      <h2 className="text-lg font-semibold">
        <Trans>Try another analyser on a field</Trans>
      </h2>
      <p className="text-quiet">
        <Trans>
          Compares the terms of the field's values and of recent queries. Changes nothing.
        </Trans>
      </p>
      <div className="mt-2 flex flex-wrap items-center gap-3">
        {indexes.length > 1 && (
          <Pick
            label={t`Index of the trial`}
            value={index}
            options={indexes.map((name) => ({ value: name, label: name }))}
            onPick={setPicked}
          />
        )}
        <Pick
          label={t`Field of the trial`}
          value={field.name}
          options={texts.map((one) => ({ value: one.name, label: `${one.name}: ${one.analyser}` }))}
          onPick={setChosen}
        />
        <span className="text-quiet">
          <Trans>with</Trans>
        </span>
        <Pick
          label={t`Analyser of the trial`}
          value={analyser}
          options={analysers.map((one) => ({ value: one.name, label: one.name }))}
          onPick={setAnalyser}
        />
        <Button onClick={() => trial.mutate()} busy={trial.isPending}>
          <Trans>Try it</Trans>
        </Button>
      </div>
      {trial.error && <ErrorNotice error={trial.error} />}
      {trial.data && <Outcome tried={trial.data} />}
    </section>
  );
}

function Outcome({ tried }: { tried: TriedAnalyser }) {
  const { looked, touched, goes, comes } = tried.documents;
  return (
    <div className="mt-3">
      <p>
        <Trans>
          <strong>{count(touched)}</strong> of {count(looked)}{" "}
          <Plural value={looked} one="document" other="documents" /> would get different terms with{" "}
          {tried.after} than with {tried.before}.
        </Trans>
      </p>
      <div className="mt-2 grid gap-4 sm:grid-cols-2">
        <Terms title={t`Terms removed`} terms={goes} />
        <Terms title={t`Terms added`} terms={comes} />
      </div>
      {tried.queries.length === 0 ? (
        <p className="mt-2 text-quiet">
          <Trans>No recorded query would be analysed differently.</Trans>
        </p>
      ) : (
        <>
          <h3 className="mt-3 text-sm text-quiet">
            <Trans>Queries that would be analysed differently</Trans>
          </h3>
          <ul>
            {tried.queries.map((query) => (
              <li key={query.words}>
                <strong>{query.words}</strong>: {query.before.join(" ")} → {query.after.join(" ")}
              </li>
            ))}
          </ul>
        </>
      )}
    </div>
  );
}

function Terms(props: { title: string; terms: { term: string; documents: number }[] }) {
  return (
    <div>
      <h3 className="text-sm text-quiet">{props.title}</h3>
      <ul className="mt-1 flex flex-wrap gap-1">
        {props.terms.map(({ term, documents }) => (
          <li key={term} className="rounded border border-line bg-ground px-1.5">
            {term} <span className="text-sm text-quiet">{count(documents)}</span>
          </li>
        ))}
        {props.terms.length === 0 && (
          <li className="text-quiet">
            <Trans>none</Trans>
          </li>
        )}
      </ul>
    </div>
  );
}
