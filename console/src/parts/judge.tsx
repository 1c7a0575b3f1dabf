import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Endpoint, type Result, type Scorecard } from "../api";
import { Button } from "./button";
import { ErrorNotice } from "./notice";
import { scorecardText } from "./scorecardText";

const GRADES = [
  { grade: 0, title: t`useless` },
  { grade: 1, title: t`related` },
  { grade: 2, title: t`good` },
  { grade: 3, title: t`exactly this` },
];

/** A result list in which every result gets a grade by hand. */
export function Judge(props: { card?: Scorecard; endpoints: Endpoint[]; words: string }) {
  const endpoint = props.card?.endpoint ?? props.endpoints[0]?.name ?? "";
  const [typed, setTyped] = useState(props.words);
  const [words, setWords] = useState(props.words);
  const [given, setGiven] = useState<Record<string, number>>({});
  const queries = useQueryClient();
  const before = props.card?.queries.find((q) => q.words === words)?.grades ?? {};
  const answer = useQuery({
    queryKey: ["judge", endpoint, words],
    queryFn: () => api.tryWords(endpoint, words, 20),
    enabled: words !== "",
  });
  const grades = { ...before, ...given };
  const save = useMutation({
    mutationFn: () => {
      const card = props.card ?? { name: "graded", endpoint, top: 10, least: 0, queries: [] };
      const others = card.queries.filter((q) => q.words !== words);
      const text = scorecardText({ ...card, queries: [...others, { words, grades }] });
      return api.apply(`${card.name}.yaml`, text);
    },
    onSuccess: () => {
      setGiven({});
      queries.invalidateQueries({ queryKey: ["scorecards"] });
      queries.invalidateQueries({ queryKey: ["definitions"] });
    },
  });
  return (
    <div className="mt-2 rounded bg-ground px-3 py-2">
      <form
        className="flex flex-wrap items-center gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          setGiven({});
          save.reset();
          setWords(typed.trim());
        }}
      >
        <input
          aria-label={t`Query to grade`}
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
          placeholder={t`what people search for`}
          className="grow rounded border border-line bg-surface px-2 py-1"
        />
        <button type="submit" className="rounded border border-line bg-surface px-3 py-1">
          <Trans>Show results</Trans>
        </button>
      </form>
      {answer.error && <ErrorNotice error={answer.error} />}
      {answer.data && (
        <>
          <ol className="mt-2 divide-y divide-line">
            {answer.data.results.map((result) => (
              <li key={result.key} className="flex flex-wrap items-center gap-x-3 py-1">
                <span className="min-w-0 grow truncate">
                  {label(result)} <span className="text-quiet">{result.key}</span>
                </span>
                <fieldset className="flex gap-1">
                  <legend className="sr-only">
                    <Trans>Grade of {result.key}</Trans>
                  </legend>
                  {GRADES.map(({ grade, title }) => (
                    <label
                      key={grade}
                      className={`cursor-pointer rounded px-2 py-0.5 text-sm focus-within:outline-2 ${
                        grades[result.key] === grade
                          ? "bg-accent text-surface"
                          : "border border-line bg-surface"
                      }`}
                    >
                      <input
                        type="radio"
                        className="sr-only"
                        name={t`grade ${result.key}`}
                        checked={grades[result.key] === grade}
                        onChange={() => setGiven({ ...given, [result.key]: grade })}
                      />
                      {title}
                    </label>
                  ))}
                </fieldset>
              </li>
            ))}
          </ol>
          {answer.data.results.length === 0 && (
            <p className="text-quiet">
              <Trans>No results.</Trans>
            </p>
          )}
          <div className="mt-2">
            <Button
              changes
              main
              onClick={() => save.mutate()}
              busy={save.isPending || Object.keys(given).length === 0}
            >
              <Trans>Keep these grades</Trans>
            </Button>
          </div>
        </>
      )}
      {save.error && <ErrorNotice error={save.error} />}
    </div>
  );
}

function label(result: Result) {
  const shown = Object.values(result.fields).find((value) => value !== result.key);
  return String(shown ?? "");
}
