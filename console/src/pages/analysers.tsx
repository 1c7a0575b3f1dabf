import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { type Analysed, type Analyser, api, type Token } from "../api";
import { count } from "../format";
import { FieldTrial } from "../parts/fieldTrial";
import { ErrorNotice } from "../parts/notice";
import { Pick } from "../parts/pick";

const FIRST_TEXT = "The gardener's ferns weren't washed away: Été in the Café, 3.5 cm of ashes!";

/** Type a sentence, see the tokens after every step, two analysers side by side. */
export function AnalysersPage() {
  const [text, setText] = useState(FIRST_TEXT);
  const [left, setLeft] = useState("words");
  const [right, setRight] = useState("english");
  const analysers = useQuery({ queryKey: ["analysers"], queryFn: api.analysers });
  const tried = useQuery({
    queryKey: ["analyse", text, left, right],
    queryFn: () => api.analyse(text, [left, right]),
    placeholderData: keepPreviousData,
  });
  const [a, b] = tried.data ?? [];
  return (
    <div className="flex flex-col gap-4">
      <div>
        <h1 className="text-2xl font-semibold tracking-tight">
          <Trans>Compare analysers</Trans>
        </h1>
        <p className="text-quiet">
          <Trans>
            Outlined terms come from one analyser only. A dot is a position that stays empty.
          </Trans>
        </p>
      </div>
      <label>
        <span className="sr-only">
          <Trans>Text to analyse</Trans>
        </span>
        <textarea
          value={text}
          rows={2}
          maxLength={20000}
          onChange={(event) => setText(event.target.value)}
          className="w-full rounded border border-line bg-surface px-3 py-2 text-lg"
        />
      </label>
      {(analysers.error ?? tried.error) && <ErrorNotice error={analysers.error ?? tried.error} />}
      <div className="grid items-start gap-4 lg:grid-cols-2">
        <Column
          side={t`Left analyser`}
          name={left}
          onPick={setLeft}
          analysers={analysers.data ?? []}
          analysed={a}
          other={b}
        />
        <Column
          side={t`Right analyser`}
          name={right}
          onPick={setRight}
          analysers={analysers.data ?? []}
          analysed={b}
          other={a}
        />
      </div>
      <FieldTrial analysers={analysers.data ?? []} />
    </div>
  );
}

function Column(props: {
  side: string;
  name: string;
  onPick: (name: string) => void;
  analysers: Analyser[];
  analysed?: Analysed;
  other?: Analysed;
}) {
  const analyser = props.analysers.find((one) => one.name === props.name);
  const steps = props.analysed?.steps ?? [];
  const otherTerms = new Set(props.other?.steps.at(-1)?.tokens.map((token) => token.text));
  return (
    <section className="rounded border border-line bg-surface" aria-label={props.side}>
      <header className="flex flex-wrap items-center gap-x-3 border-b border-line px-4 py-2">
        <Pick
          label={props.side}
          value={props.name}
          options={props.analysers.map((one) => ({
            value: one.name,
            label: one.builtIn ? one.name : `${one.name} (yours)`,
          }))}
          onPick={props.onPick}
        />
        <span className="text-sm text-quiet">{analyser?.chain.join(" → ")}</span>
        {analyser?.warnings.map((warning) => (
          <p key={warning} className="w-full text-sm">
            <strong>
              <Trans>Beware:</Trans>
            </strong>{" "}
            {warning}
          </p>
        ))}
      </header>
      <ol>
        {steps.map((step, i) => {
          const last = i === steps.length - 1;
          const before = i === 0 ? undefined : steps[i - 1]?.tokens;
          return (
            <li
              // biome-ignore lint/suspicious/noArrayIndexKey: a filter may stand in a chain twice
              key={i}
              className={`px-4 py-2 ${last ? "bg-wash" : "border-b border-line"}`}
            >
              <div className="flex justify-between text-sm text-quiet">
                <span>{step.step}</span>
                {!step.text && (
                  <span>{t`${count(step.tokens.length)} ${plural(step.tokens.length, { one: "token", other: "tokens" })}`}</span>
                )}
              </div>
              {step.text && <p className="mt-1 font-mono">{step.text}</p>}
              <Tokens
                tokens={step.tokens}
                changed={(token) => before !== undefined && isNew(token, before)}
                marked={(token) => last && !otherTerms.has(token.text)}
              />
            </li>
          );
        })}
      </ol>
    </section>
  );
}

/** Whether a step made or changed a token: nothing before it stood there with this text. */
function isNew(token: Token, before: Token[]): boolean {
  return !before.some((old) => old.position === token.position && old.text === token.text);
}

function Tokens(props: {
  tokens: Token[];
  changed: (token: Token) => boolean;
  marked: (token: Token) => boolean;
}) {
  return (
    <ul className="mt-1 flex flex-wrap items-center gap-1">
      {withHoles(props.tokens).map((token, i) =>
        token === undefined ? (
          // biome-ignore lint/suspicious/noArrayIndexKey: a hole has no identity but its place
          <li key={i} className="px-1 text-quiet">
            <span aria-hidden>·</span>
            <span className="sr-only">
              <Trans>empty position</Trans>
            </span>
          </li>
        ) : (
          <li
            // biome-ignore lint/suspicious/noArrayIndexKey: equal tokens may stand at one position
            key={i}
            title={t`position ${token.position}, characters ${token.start} to ${token.end}`}
            className={`rounded border bg-ground px-1.5 ${
              props.marked(token) ? "border-accent border-2 font-semibold" : "border-line"
            } ${props.changed(token) ? "text-accent" : ""}`}
          >
            {token.text}
          </li>
        ),
      )}
    </ul>
  );
}

/** The tokens in order, with undefined for each position that stays empty. */
export function withHoles(tokens: Token[]): (Token | undefined)[] {
  const out: (Token | undefined)[] = [];
  let position = 0;
  for (const token of tokens) {
    for (; position < token.position; position++) out.push(undefined);
    out.push(token);
    position = token.position + 1;
  }
  return out;
}
