import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Tabs } from "radix-ui";
import { useEffect, useRef, useState } from "react";
import { api, Problem, type Result, type SearchAnswer } from "../api";
import { count } from "../format";
import { escapeHtml, Marked } from "./marked";
import { Asking, ErrorNotice } from "./notice";
import type { useTrial } from "./useTrial";
import { Views } from "./views";

const VIEWS = [
  { value: "results", title: t`Results` },
  { value: "page", title: t`Page` },
  { value: "answer", title: t`Answer as JSON` },
];

/** What may be done with a result of the preview. */
export interface ResultAct {
  title: string;
  /** Whether it has been done to the record of this key. */
  done: (key: string) => boolean;
  act: (key: string) => void;
}

/** An endpoint as it is, and beside it as it would be under what is being edited. */
export function EndpointPreview(props: {
  endpoint: string;
  trial: ReturnType<typeof useTrial>;
  words: string;
  onWords: (words: string) => void;
  acts?: ResultAct[];
}) {
  const { endpoint, trial, words } = props;
  const [beside, setBeside] = useState(true);
  const sides = [
    ...(trial.differs && beside ? [{ name: endpoint, title: t`As it is now` }] : []),
    { name: trial.name, title: trial.differs ? t`With your changes` : t`As it is now` },
  ];
  const columns = sides.length === 2 ? "lg:grid-cols-2" : "";
  return (
    <section className="rounded border border-line bg-surface px-4 py-3" aria-label={t`Preview`}>
      <Tabs.Root defaultValue="results">
        <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
          <h2 className="text-lg font-semibold">
            <Trans>Preview</Trans>
          </h2>
          <input
            type="search"
            aria-label={t`Words to try`}
            placeholder={t`words to try`}
            className="w-64 rounded border border-line bg-surface px-2 py-1"
            value={words}
            onChange={(event) => props.onWords(event.target.value)}
          />
          <Views label={t`Preview as`} views={VIEWS} />
          {trial.differs && (
            <label className="flex items-center gap-1.5">
              <input
                type="checkbox"
                checked={beside}
                onChange={(event) => setBeside(event.target.checked)}
              />
              <Trans>beside what is there now</Trans>
            </label>
          )}
        </div>
        {trial.error && (
          <div className="mt-2">
            <TrialProblem error={trial.error} />
          </div>
        )}
        <Tabs.Content value="results" className={`mt-2 grid gap-4 ${columns}`}>
          {sides.map((side) => (
            <Side key={side.title} title={side.title}>
              <ResultSide
                name={side.name}
                against={side.name === endpoint ? undefined : endpoint}
                words={words}
                acts={props.acts}
              />
            </Side>
          ))}
        </Tabs.Content>
        <Tabs.Content value="page" className={`mt-2 grid gap-4 ${columns}`}>
          {sides.map((side) => (
            <Side key={side.title} title={side.title}>
              <PageSide name={side.name} title={side.title} words={words} />
            </Side>
          ))}
        </Tabs.Content>
        <Tabs.Content value="answer" className={`mt-2 grid gap-4 ${columns}`}>
          {sides.map((side) => (
            <Side key={side.title} title={side.title}>
              <AnswerSide name={side.name} title={side.title} words={words} />
            </Side>
          ))}
        </Tabs.Content>
      </Tabs.Root>
    </section>
  );
}

/** What is wrong is said in the editor; here only what cannot be tried. */
function TrialProblem({ error }: { error: Error }) {
  if (error instanceof Problem && error.problems.length > 0) {
    return (
      <output className="text-warn">
        <Trans>The definition has problems; this is how it was before them.</Trans>
      </output>
    );
  }
  return <ErrorNotice error={error} />;
}

function Side({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <section className="min-w-0" aria-label={title}>
      <h3 className="font-semibold">{title}</h3>
      {children}
    </section>
  );
}

const PREVIEWED = 10;

function useAnswer(name: string, words: string, size: number) {
  return useQuery({
    queryKey: ["try", name, words, size],
    queryFn: () => api.tryWords(name, words, size),
    placeholderData: keepPreviousData,
  });
}

/** The first results; those that are at another place than in another answer are marked. */
function ResultSide(props: { name: string; against?: string; words: string; acts?: ResultAct[] }) {
  const answer = useAnswer(props.name, props.words, PREVIEWED);
  const other = useAnswer(props.against ?? props.name, props.words, PREVIEWED);
  if (answer.error) return <ErrorNotice error={answer.error} />;
  if (!answer.data) return <Asking />;
  const before = props.against ? other.data?.results.map((result) => result.key) : undefined;
  return (
    <>
      <Told answer={answer.data} />
      <ol>
        {answer.data.results.map((result, at) => (
          <li key={result.key} className="border-t border-line py-1">
            <div className="flex items-baseline gap-2.5">
              <span className="w-5 shrink-0 text-right text-quiet">{at + 1}</span>
              <span className="min-w-0 grow">
                <Titled result={result} answer={answer.data} />
                {result.putFirst && (
                  <span className="ml-2 rounded border border-line px-1.5 text-sm text-quiet">
                    <Trans>put first</Trans>
                  </span>
                )}
              </span>
              <Moved before={before} result={result} at={at} />
              <span className="shrink-0 text-sm text-quiet">{result.key}</span>
            </div>
            {props.acts && (
              <div className="ml-7 flex gap-3 text-sm">
                {props.acts.map((one) => (
                  <button
                    key={one.title}
                    type="button"
                    className="text-accent underline disabled:text-quiet disabled:no-underline"
                    aria-label={`${one.title}: ${result.key}`}
                    disabled={one.done(result.key)}
                    onClick={() => one.act(result.key)}
                  >
                    {one.title}
                  </button>
                ))}
              </div>
            )}
          </li>
        ))}
      </ol>
    </>
  );
}

function Titled({ result, answer }: { result: Result; answer: SearchAnswer }) {
  const { title, subtitle } = answer.card;
  const text = (field: string) =>
    result.highlights[field]?.[0] ?? escapeHtml(String(result.fields[field] ?? ""));
  return (
    <>
      <strong>
        <Marked html={title ? text(title) : escapeHtml(result.key)} />
      </strong>{" "}
      {subtitle && (
        <em className="text-quiet">
          <Marked html={text(subtitle)} />
        </em>
      )}
    </>
  );
}

function Moved(props: { before?: string[]; result: Result; at: number }) {
  if (!props.before) return null;
  const was = props.before.indexOf(props.result.key);
  if (was === props.at) return null;
  return (
    <span className="shrink-0 rounded bg-wash px-1.5 text-sm text-accent">
      {was < 0 ? t`new here` : t`was ${was + 1}`}
    </span>
  );
}

/** How much was found, and what curations say. */
function Told({ answer }: { answer: SearchAnswer }) {
  return (
    <div className="mb-1 text-quiet">
      {answer.total && (
        <p>{t`${count(answer.total.count)} ${plural(answer.total.count, { one: "result", other: "results" })}`}</p>
      )}
      {answer.curated?.map((rule) => (
        <p key={`${rule.curation} ${rule.rule}`}>
          <Trans>
            Rule {rule.rule} of {rule.curation} applies
            {rule.message && (
              <>
                <Trans> and says: </Trans>
                <q>{rule.message}</q>
              </>
            )}
          </Trans>
        </p>
      ))}
    </div>
  );
}

/** The ready page in a frame. What is chosen there stays when the settings change. */
function PageSide(props: { name: string; title: string; words: string }) {
  const frame = useRef<HTMLIFrameElement>(null);
  const shown = useRef("");
  useEffect(() => {
    const page = frame.current?.contentWindow;
    if (!page) return;
    const stays = shown.current === props.words && page.location.pathname.startsWith("/pages/");
    const search = stays ? page.location.search : `?q=${encodeURIComponent(props.words)}`;
    shown.current = props.words;
    page.location.replace(`/pages/${encodeURIComponent(props.name)}${search}`);
  }, [props.name, props.words]);
  return (
    <iframe
      ref={frame}
      title={t`Page: ${props.title}`}
      className="mt-1 h-[34rem] w-full rounded border border-line"
    />
  );
}

function AnswerSide(props: { name: string; title: string; words: string }) {
  const answer = useAnswer(props.name, props.words, 3);
  if (answer.error) return <ErrorNotice error={answer.error} />;
  return (
    <pre
      // biome-ignore lint/a11y/noNoninteractiveTabindex: it is scrolled by keyboard
      tabIndex={0}
      className="mt-1 max-h-[34rem] overflow-auto rounded bg-ground px-3 py-2 font-mono text-xs"
    >
      {answer.data ? JSON.stringify(answer.data, null, 2) : t`Asking the service …`}
    </pre>
  );
}
