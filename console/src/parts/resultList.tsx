import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState } from "react";
import type { Card, Explanation, Result, SearchAnswer } from "../api";
import { count } from "../format";
import { escapeHtml, Marked } from "./marked";
import { Why } from "./why";

/** The results of a page, each with what names it, what was found in it, and its facts. */
export function Results({
  answer,
  explain,
}: {
  answer: SearchAnswer;
  explain: (key: string) => Promise<Explanation>;
}) {
  if (answer.results.length === 0) {
    return (
      <p className="rounded border border-line bg-surface p-4">
        <Trans>
          No results. Remove a word or a choice, or search for the beginning of a word with a star:{" "}
          <code>fer*</code>
        </Trans>
      </p>
    );
  }
  const texts = textsOf(answer.results);
  return (
    <ol className="divide-y divide-line rounded border border-line bg-surface">
      {answer.results.map((result) => (
        <ResultItem
          key={result.key}
          result={result}
          card={answer.card}
          texts={texts}
          explain={explain}
        />
      ))}
    </ol>
  );
}

/** A longer text is no fact for one line. */
const FACT_LENGTH = 80;

function ResultItem({
  result,
  card,
  texts,
  explain,
}: {
  result: Result;
  card: Card;
  texts: Set<string>;
  explain: (key: string) => Promise<Explanation>;
}) {
  const [why, setWhy] = useState<Explanation>();
  const shown = (field: string) =>
    result.highlights[field]?.[0] ?? escapeHtml(String(result.fields[field] ?? ""));
  const has = (field?: string): field is string =>
    field !== undefined && result.fields[field] !== undefined;
  const named = new Set([card.title, card.subtitle, card.picture]);
  const others = Object.entries(result.fields).filter(
    ([name, value]) => !named.has(name) && value !== result.key && !hasRows(value),
  );
  const facts = others.filter(([name]) => !texts.has(name));
  const text = others.find(([name]) => texts.has(name))?.[1];
  const fragments = Object.entries(result.highlights)
    .filter(([field]) => !named.has(field) && !facts.some(([name]) => name === field))
    .flatMap(([field, list]) => list.map((html) => ({ field, html })));
  const title = <Marked html={has(card.title) ? shown(card.title) : escapeHtml(result.key)} />;
  return (
    <li className="flex gap-4 px-4 py-3">
      {has(card.picture) && (
        <img
          src={String(result.fields[card.picture])}
          alt=""
          loading="lazy"
          referrerPolicy="no-referrer"
          className="size-16 shrink-0 rounded object-cover"
        />
      )}
      <div className="min-w-0 grow">
        <div className="flex flex-wrap items-baseline gap-x-2.5">
          <h2 className="text-lg font-semibold">
            {result.link ? (
              <a
                href={result.link}
                target="_blank"
                rel="noreferrer"
                className="hover:text-accent hover:underline"
              >
                {title}
              </a>
            ) : (
              title
            )}
          </h2>
          {has(card.subtitle) && (
            <em className="text-quiet">
              <Marked html={shown(card.subtitle)} />
            </em>
          )}
          {result.putFirst && (
            <span className="rounded border border-line px-1.5 text-sm text-quiet">
              <Trans>put first</Trans>
            </span>
          )}
          <span className="ml-auto text-sm text-quiet">
            {result.key}
            {(result.score > 0 || result.putFirst) && (
              <>
                {" · "}
                <button
                  type="button"
                  aria-expanded={why !== undefined}
                  className="underline decoration-dotted"
                  onClick={async () => setWhy(why ? undefined : await explain(result.key))}
                >
                  {result.putFirst ? t`why` : t`score ${result.score.toFixed(2)}`}
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
        {fragments.length === 0 && text !== undefined && (
          <p className="line-clamp-2">{String(text)}</p>
        )}
        {Object.entries(result.rows ?? {}).map(([group, rows]) => (
          <p key={group} className="mt-0.5 text-sm text-quiet">
            {group.replaceAll("_", " ")}{" "}
            <span className="text-ink">{rows.slice(0, 3).map(rowText).join(" · ")}</span>
            {rows.length > 3 && t` and ${count(rows.length - 3)} more`}
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
      </div>
    </li>
  );
}

/** The fields that have a long value in some result: they are texts in all of them. */
function textsOf(results: Result[]): Set<string> {
  const long = (value: unknown) => typeof value === "string" && value.length > FACT_LENGTH;
  return new Set(
    results.flatMap((result) =>
      Object.entries(result.fields)
        .filter(([, value]) => long(value))
        .map(([name]) => name),
    ),
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
