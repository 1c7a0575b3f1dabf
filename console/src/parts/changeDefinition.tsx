import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Definition, type IndexShape, type Plan, Problem } from "../api";
import { count, megabytes } from "../format";
import { Button } from "./button";
import { DefinitionEditor } from "./definitionEditor";
import { useMayChange } from "./mayChange";
import { ErrorNotice } from "./notice";
import { Pick } from "./pick";
import { useDefinitionHelp } from "./useDefinitionHelp";

/** Edits a definition, shows what that would do, and does it. */
export function ChangeDefinition({ index }: { index: string }) {
  return useMayChange() ? <Definitions index={index} /> : null;
}

function Definitions({ index }: { index: string }) {
  const definitions = useQuery({ queryKey: ["definitions"], queryFn: api.definitions });
  const [chosen, setChosen] = useState(`index ${index}`);
  const list = (definitions.data ?? []).filter((d) => d.kind !== "source");
  const definition = list.find((d) => id(d) === chosen);
  return (
    <section className="rounded border border-line bg-surface px-4 py-3" aria-label={t`Change`}>
      <div className="flex flex-wrap items-center gap-3">
        <h2 className="text-lg font-semibold">
          <Trans>Change a definition</Trans>
        </h2>
        <Pick
          label={t`Definition`}
          value={chosen}
          options={list.map((d) => ({ value: id(d), label: id(d) }))}
          onPick={setChosen}
        />
        {definition && (
          <span className="text-quiet">
            <Trans>version {definition.version}</Trans>
          </span>
        )}
      </div>
      {definition && (
        <PlannedEditor key={`${id(definition)} ${definition.version}`} definition={definition} />
      )}
    </section>
  );
}

const id = (definition: Pick<Definition, "kind" | "name">) =>
  `${definition.kind} ${definition.name}`;

/** The editor of one definition, with its plan. */
export function PlannedEditor(props: {
  definition: Pick<Definition, "kind" | "name" | "file" | "text">;
  /** Whether a new edition goes live by itself, as there is none before it. */
  atOnce?: boolean;
  /** Is told the text that was applied. */
  onApplied?: (text: string) => void;
  /** What the index is made of, if it is the definition of one. */
  shape?: IndexShape;
  /** The text, if it is edited elsewhere too. */
  text?: string;
  /** Is told each text as it is typed. */
  onText?: (text: string) => void;
}) {
  const { definition, onText, onApplied, atOnce = false } = props;
  const help = useDefinitionHelp(props.shape);
  const [typed, setTyped] = useState(definition.text);
  const text = props.text ?? typed;
  const [hold, setHold] = useState(!atOnce);
  const queries = useQueryClient();
  const plan = useMutation({ mutationFn: () => api.plan(definition.file, text) });
  const apply = useMutation({
    mutationFn: (agreed: string) => api.apply(definition.file, text, agreed, hold),
    onSuccess: () => {
      queries.invalidateQueries();
      onApplied?.(text);
    },
  });
  return (
    <>
      <DefinitionEditor
        label={t`Definition of ${id(definition)}`}
        file={definition.file}
        text={text}
        schemas={help.schemas}
        names={help.names}
        onChange={(changed) => {
          setTyped(changed);
          onText?.(changed);
          plan.reset();
          apply.reset();
        }}
      />
      <div className="mt-2 flex flex-wrap items-center gap-3">
        <Button changes onClick={() => plan.mutate()} busy={plan.isPending}>
          <Trans>Show the plan</Trans>
        </Button>
      </div>
      {plan.error && <Problems error={plan.error} />}
      {plan.data && (
        <PlanShown plan={plan.data}>
          <div className="mt-2 flex flex-wrap items-center gap-3">
            <Button
              changes
              main
              onClick={() => apply.mutate(plan.data.plan)}
              busy={apply.isPending}
            >
              <Trans>Apply this plan</Trans>
            </Button>
            {!atOnce && (
              <label className="flex items-center gap-1.5">
                <input
                  type="checkbox"
                  checked={hold}
                  onChange={(event) => setHold(event.target.checked)}
                />
                <Trans>a new edition waits for my approval</Trans>
              </label>
            )}
          </div>
        </PlanShown>
      )}
      {apply.error && <Problems error={apply.error} />}
    </>
  );
}

function Problems({ error }: { error: Error }) {
  const problems = error instanceof Problem ? error.problems : [];
  if (problems.length === 0) return <ErrorNotice error={error} />;
  return (
    <ul className="mt-2 text-bad" role="alert">
      {problems.map((problem) => (
        <li key={`${problem.line}:${problem.column}:${problem.key}`}>
          <Trans>
            line {problem.line}, {problem.key}: {problem.detail}
            {problem.suggestion && <Trans> – did you mean {problem.suggestion}?</Trans>}
          </Trans>
        </li>
      ))}
    </ul>
  );
}

const TAKES: Record<string, string> = {
  "at once": t`immediately, from the next query on`,
  "from stored": t`a new edition from stored records`,
  "from database": t`a new edition from the database`,
};

function PlanShown({ plan, children }: { plan: Plan; children: React.ReactNode }) {
  if (plan.changes.length === 0)
    return (
      <p className="mt-2">
        <Trans>Nothing would change.</Trans>
      </p>
    );
  return (
    <section className="mt-3 rounded bg-ground px-3 py-2" aria-label={t`Plan`}>
      {plan.changes.map((change) => (
        <div key={`${change.kind} ${change.name}`} className="mb-2">
          <p>
            <strong>
              {change.kind} {change.name}
            </strong>{" "}
            {change.change === "new" ? t`is new` : t`changes to version ${change.version}`}
            {change.cost && <>: {TAKES[change.cost] ?? change.cost}</>}
          </p>
          <ul>
            {change.differences.map((difference) => (
              <li key={difference.path} className="grid gap-x-3 sm:grid-cols-[8rem_1fr]">
                <span className="text-quiet">{difference.cost}</span>
                <span>
                  <code className="font-mono text-sm">{difference.path}</code>: {difference.reason}
                </span>
              </li>
            ))}
          </ul>
          {change.estimate && (
            <p className="text-quiet">
              <Trans>
                {count(change.estimate.records)} records,{" "}
                {change.estimate.seconds === undefined
                  ? t`for an unknown time`
                  : t`about ${Math.max(1, change.estimate.seconds)} s`}
                , {megabytes(change.estimate.bytes)} of disk,{" "}
                {change.estimate.databaseReads === 0
                  ? t`nothing read from the database`
                  : t`${count(change.estimate.databaseReads)} records read from the database`}{" "}
                ({change.estimate.basis})
              </Trans>
            </p>
          )}
        </div>
      ))}
      {plan.warnings.map((warning) => (
        <p key={warning.about + warning.detail} className="text-warn">
          {warning.about}: {warning.detail}
        </p>
      ))}
      {children}
    </section>
  );
}
