import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useSearchParams } from "react-router";
import { api, type Definition, type Endpoint, type IndexShape } from "../api";
import { PlannedEditor } from "../parts/changeDefinition";
import { NoEndpointYet, useChosenEndpoint } from "../parts/chosenIndex";
import { CodeToCopy } from "../parts/codeToCopy";
import { keysOf, newCuration, type RuleAct, withKey } from "../parts/curationText";
import { read, withSynonym } from "../parts/definitionText";
import { EndpointForm } from "../parts/endpointForm";
import { EndpointPreview, type ResultAct } from "../parts/endpointPreview";
import { useMayChange } from "../parts/mayChange";
import { Asking, ErrorNotice } from "../parts/notice";
import { Pick } from "../parts/pick";
import { useTrial } from "../parts/useTrial";
import { Versions } from "../parts/versions";

const NEW = "new curation";

/** How an endpoint answers: its settings and curations, what changes would do, and how to call it. */
export function EndpointsPage() {
  const [params, setParams] = useSearchParams();
  const { endpoint, endpoints, known, error: failed } = useChosenEndpoint();
  const definitions = useQuery({ queryKey: ["definitions"], queryFn: api.definitions });
  const shape = useQuery({
    queryKey: ["shape", endpoint?.index],
    queryFn: () => api.shape(endpoint?.index ?? ""),
    enabled: endpoint !== undefined,
  });
  const error = failed ?? definitions.error ?? shape.error;
  if (error) return <ErrorNotice error={error} />;
  if (known && !endpoint) return <NoEndpointYet />;
  if (!endpoint || !definitions.data || !shape.data) {
    return <Asking />;
  }
  const offered = concerned(definitions.data, endpoint.name);
  const chosen = params.get("definition") ?? id(offered[0]);
  const edited = offered.find((one) => id(one) === chosen);
  const choose = (definition: string) => setParams({ endpoint: endpoint.name, definition });
  return (
    <div className="flex flex-col gap-5">
      <div className="flex flex-wrap items-center gap-3">
        <h1 className="text-2xl font-semibold tracking-tight">
          <Trans>Endpoint {endpoint.name}</Trans>
        </h1>
        {endpoints.length > 1 && (
          <Pick
            label={t`Endpoint`}
            value={endpoint.name}
            options={endpoints.map((one) => ({ value: one.name, label: one.name }))}
            onPick={(name) => setParams({ endpoint: name })}
          />
        )}
        <Pick
          label={t`Definition`}
          value={chosen}
          options={[...offered.map((one) => ({ value: id(one), label: id(one) })), ...MORE]}
          onPick={choose}
        />
        {edited && (
          <span className="text-quiet">
            <Trans>version {edited.version}</Trans>
          </span>
        )}
        <a
          href={`/pages/${encodeURIComponent(endpoint.name)}`}
          target="_blank"
          rel="noreferrer"
          className="ml-auto text-accent underline"
        >
          <Trans>Open its search page</Trans>
        </a>
      </div>
      {chosen === NEW ? (
        <NewCuration endpoint={endpoint} shape={shape.data} onMade={choose} />
      ) : (
        <Settings
          key={`${chosen} ${edited?.version}`}
          endpoint={endpoint}
          shape={shape.data}
          definition={edited ?? offered[0]}
        />
      )}
    </div>
  );
}

const MORE = [{ value: NEW, label: t`a new curation` }];

const id = (definition?: { kind: string; name: string }) =>
  definition ? `${definition.kind} ${definition.name}` : "";

/** The endpoint's own definition, its curations, and the synonyms, all of which can be tried. */
function concerned(definitions: Definition[], endpoint: string): Definition[] {
  const kind = (name: string) => definitions.filter((one) => one.kind === name);
  return [
    ...kind("endpoint").filter((one) => one.name === endpoint),
    ...kind("curation").filter((one) => read(one.text)?.get("endpoint") === endpoint),
    ...kind("synonyms"),
  ];
}

function Settings(props: {
  endpoint: Endpoint;
  shape: IndexShape;
  definition?: Definition;
  /** Whether the definition has never been applied. */
  isNew?: boolean;
  onApplied?: () => void;
}) {
  const { endpoint, shape, definition } = props;
  const mayChange = useMayChange();
  const [params] = useSearchParams();
  const [text, setText] = useState(() => started(definition, params));
  const [words, setWords] = useState(params.get("q") ?? "");
  const trial = useTrial(endpoint.name, definition?.text ?? "", {
    file: definition?.file ?? "",
    text,
  });
  if (!definition) return null;
  return (
    <>
      <div className="grid items-start gap-5 lg:grid-cols-2">
        {definition.kind === "endpoint" && mayChange && (
          <section
            className="rounded border border-line bg-surface px-4 py-3 lg:max-h-[36rem] lg:overflow-y-auto"
            aria-label={t`Settings`}
            // biome-ignore lint/a11y/noNoninteractiveTabindex: it is scrolled by keyboard
            tabIndex={0}
          >
            <EndpointForm text={text} shape={shape} onText={setText} />
          </section>
        )}
        <section
          className={`min-w-0 rounded border border-line bg-surface px-4 py-3 ${definition.kind === "endpoint" && mayChange ? "" : "lg:col-span-2"}`}
          aria-label={t`Definition`}
        >
          <h2 className="text-lg font-semibold">
            {definition.kind === "endpoint" ? t`As YAML` : id(definition)}
          </h2>
          {definition.kind === "curation" && (
            <p className="text-quiet">
              <Trans>
                Type words below and put results first or hide them, or write rules here.
              </Trans>
            </p>
          )}
          <PlannedEditor
            definition={definition}
            text={text}
            onText={setText}
            onApplied={props.onApplied}
            atOnce={props.isNew}
          />
        </section>
      </div>
      <EndpointPreview
        endpoint={endpoint.name}
        trial={trial}
        words={words}
        onWords={setWords}
        acts={
          definition.kind === "curation" && mayChange ? ruleActs(text, words, setText) : undefined
        }
      />
      {definition.kind === "endpoint" && (
        <CodeToCopy endpoint={endpoint} shape={shape} words={words} />
      )}
      {!props.isNew && <Versions definition={definition} />}
    </>
  );
}

/** The text to begin with: a synonym may be asked for by the address. */
function started(definition: Definition | undefined, params: URLSearchParams): string {
  const [words, means] = [params.get("q"), params.get("means")];
  if (definition?.kind !== "synonyms" || !words || !means) return definition?.text ?? "";
  return withSynonym(definition.text, words, means);
}

function ruleActs(
  text: string,
  words: string,
  onText: (text: string) => void,
): ResultAct[] | undefined {
  if (words.trim() === "") return undefined;
  const act = (title: string, what: RuleAct) => ({
    title,
    done: (key: string) => keysOf(text, words, what).includes(key),
    act: (key: string) => onText(withKey(text, words, what, key)),
  });
  return [act(t`Put first`, "first"), act(t`Hide`, "hide")];
}

/** Names a curation and lets its rules be tried before there is one. */
function NewCuration(props: {
  endpoint: Endpoint;
  shape: IndexShape;
  onMade: (definition: string) => void;
}) {
  const [name, setName] = useState(`${props.endpoint.name}-rules`);
  const definition = {
    kind: "curation",
    name,
    version: 0,
    file: `${name}.yaml`,
    text: newCuration(name, props.endpoint.name),
  } as Definition;
  return (
    <>
      <label className="flex items-center gap-2">
        <span className="font-semibold">
          <Trans>Name of the curation</Trans>
        </span>
        <input
          className="rounded border border-line bg-surface px-2 py-0.5"
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
      </label>
      <Settings
        key={name}
        endpoint={props.endpoint}
        shape={props.shape}
        definition={definition}
        isNew
        onApplied={() => props.onMade(id(definition))}
      />
    </>
  );
}
