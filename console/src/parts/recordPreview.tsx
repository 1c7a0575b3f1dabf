import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useSearchParams } from "react-router";
import { api, type Definition, type Preview } from "../api";
import { ErrorNotice } from "./notice";

const ASK_AFTER_MILLIS = 500;

/** What a definition, also one that is being typed, makes of one record of the database. */
export function RecordPreview({ definition, text }: { definition: Definition; text: string }) {
  const [params] = useSearchParams();
  const [key, setKey] = useState(params.get("key") ?? "");
  const asked = useSettled(`${text}\0${key}`);
  const preview = useQuery({
    queryKey: ["preview", definition.name, asked],
    queryFn: async () => {
      const [of = "", which] = asked.split("\0");
      // A text that is half written is nothing to ask a database about.
      const { problems } = await api.check(definition.file, of);
      if (problems.length > 0) return { wrong: true as const };
      return api.preview(definition.name, definition.file, of, which || undefined);
    },
    placeholderData: keepPreviousData,
  });
  const wrong = preview.data !== undefined && "wrong" in preview.data;
  const found = preview.data && !("wrong" in preview.data) ? preview.data : undefined;
  return (
    <section className="rounded border border-line bg-surface px-4 py-3" aria-label={t`Preview`}>
      <div className="flex flex-wrap items-center gap-3">
        <h2 className="text-lg font-semibold">
          <Trans>From row to terms</Trans>
        </h2>
        <input
          aria-label={t`Key of the record`}
          placeholder={found?.key ?? t`key`}
          value={key}
          onChange={(event) => setKey(event.target.value)}
          className="w-44 rounded border border-line bg-ground px-2 py-1"
        />
        <span className="text-quiet">
          {wrong ? t`The definition has errors; they are marked in the text.` : t`as the text says`}
        </span>
      </div>
      {preview.error && <ErrorNotice error={preview.error} />}
      {found?.problem && <p className="mt-2 text-warn">{found.problem}</p>}
      {found && <Way preview={found} />}
    </section>
  );
}

/** A value once it has not changed for a moment. */
function useSettled(value: string): string {
  const [settled, setSettled] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(value), ASK_AFTER_MILLIS);
    return () => clearTimeout(timer);
  }, [value]);
  return settled;
}

function Way({ preview }: { preview: Preview }) {
  return (
    <div className="mt-2 grid items-start gap-4 *:min-w-0 lg:grid-cols-[2fr_3fr]">
      {preview.record && (
        <div>
          <h3 className="text-sm text-quiet">
            <Trans>In the database</Trans>
          </h3>
          <dl className="mt-1 text-sm">
            {[
              ...Object.entries(preview.record.columns),
              ...Object.entries(preview.record.computed).map(([name, value]): [string, unknown] => [
                `${name} (SQL)`,
                value,
              ]),
            ].map(([name, value]) => (
              <div
                key={name}
                className="grid grid-cols-[minmax(0,10rem)_minmax(0,1fr)] gap-2 border-b border-line py-0.5"
              >
                <dt className="truncate font-mono text-quiet" title={name}>
                  {name}
                </dt>
                <dd className="min-w-0 wrap-anywhere">
                  <Short text={typeof value === "string" ? value : JSON.stringify(value)} />
                </dd>
              </div>
            ))}
          </dl>
        </div>
      )}
      {preview.fields && (
        <div>
          <h3 className="text-sm text-quiet">
            <Trans>Indexed fields and terms</Trans>
          </h3>
          <dl className="mt-1 text-sm">
            {Object.entries(preview.fields).map(([name, values]) => (
              <div
                key={name}
                className="grid grid-cols-[8rem_1fr] gap-2 border-b border-line py-0.5"
              >
                <dt className="truncate font-semibold" title={name}>
                  {name}
                </dt>
                <dd className="min-w-0 wrap-anywhere">
                  <Short text={values.map(shown).join(" · ")} />
                  {preview.tokens?.[name] && <Terms terms={preview.tokens[name] ?? []} />}
                </dd>
              </div>
            ))}
          </dl>
        </div>
      )}
    </div>
  );
}

const shown = (value: unknown) => (typeof value === "string" ? value : JSON.stringify(value));

const LONG = 300;

function Short({ text }: { text: string }) {
  return <>{text.length > LONG ? `${text.slice(0, LONG)} …` : text}</>;
}

const MAX_TERMS = 40;

function Terms({ terms }: { terms: string[] }) {
  return (
    <ul className="mt-0.5 flex flex-wrap gap-1">
      {terms.slice(0, MAX_TERMS).map((term, i) => (
        <li
          // biome-ignore lint/suspicious/noArrayIndexKey: a term may come twice
          key={i}
          className="rounded border border-line bg-ground px-1 text-accent"
        >
          {term}
        </li>
      ))}
      {terms.length > MAX_TERMS && (
        <li className="text-quiet">
          <Trans>and {terms.length - MAX_TERMS} more</Trans>
        </li>
      )}
    </ul>
  );
}
