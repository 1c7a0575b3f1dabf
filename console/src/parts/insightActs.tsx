import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, type Endpoint } from "../api";
import { read } from "./definitionText";
import { useMayChange } from "./mayChange";
import { Pick } from "./pick";

const address = (page: string, params: Record<string, string>) =>
  `/console/${page}?${new URLSearchParams(params)}`;

/** What may be done about a search: each leads to the page where it is done, with the words. */
export function InsightActs({ words, endpoint }: { words: string; endpoint: Endpoint }) {
  const mayChange = useMayChange();
  const definitions = useQuery({ queryKey: ["definitions"], queryFn: api.definitions });
  const all = definitions.data ?? [];
  const curation = all.find(
    (one) => one.kind === "curation" && read(one.text)?.get("endpoint") === endpoint.name,
  );
  const here = { endpoint: endpoint.name, q: words };
  const rule = curation ? `curation ${curation.name}` : "new curation";
  return (
    <div className="flex flex-col gap-2 rounded bg-ground px-3 py-2">
      <ul className="flex flex-wrap gap-x-5 gap-y-1">
        <Act to={address("search", here)}>
          <Trans>Try and explain it</Trans>
        </Act>
        {mayChange && (
          <>
            <Act to={address("endpoints", { ...here, definition: rule })}>
              {curation ? t`Add a rule for its results` : t`Make a first rule for its results`}
            </Act>
            <Act to={address("endpoints", here)}>
              <Trans>Compare it under a draft of the endpoint</Trans>
            </Act>
            <Act to={address("editions", { index: endpoint.index, grade: words })}>
              <Trans>Grade its results for a scorecard</Trans>
            </Act>
          </>
        )}
      </ul>
      {mayChange && (
        <Synonym
          words={words}
          endpoint={endpoint.name}
          names={all.filter((one) => one.kind === "synonyms").map((one) => one.name)}
        />
      )}
    </div>
  );
}

function Act({ to, children }: { to: string; children: React.ReactNode }) {
  return (
    <li>
      <Link to={to} className="text-accent underline">
        {children}
      </Link>
    </li>
  );
}

/** Says what people mean by words; tried and applied where synonyms are. */
function Synonym(props: { words: string; endpoint: string; names: string[] }) {
  const navigate = useNavigate();
  const [means, setMeans] = useState("");
  const [chosen, setChosen] = useState<string>();
  const name = chosen ?? props.names[0];
  if (!name) {
    return (
      <p className="text-quiet">
        <Trans>
          No synonyms are defined yet. Once a text field names a definition of synonyms, words can
          be added to it from here.
        </Trans>
      </p>
    );
  }
  return (
    <form
      className="flex flex-wrap items-center gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        navigate(
          address("endpoints", {
            endpoint: props.endpoint,
            definition: `synonyms ${name}`,
            q: props.words,
            means: means.trim(),
          }),
        );
      }}
    >
      <label className="flex flex-wrap items-center gap-2">
        <span>
          <Trans>
            <strong>{props.words}</strong> means the same as
          </Trans>
        </span>
        <input
          className="rounded border border-line bg-surface px-2 py-0.5"
          value={means}
          onChange={(event) => setMeans(event.target.value)}
        />
      </label>
      {props.names.length > 1 && (
        <Pick
          label={t`Synonyms`}
          value={name}
          options={props.names.map((one) => ({ value: one, label: t`in ${one}` }))}
          onPick={setChosen}
        />
      )}
      <button
        type="submit"
        disabled={means.trim() === ""}
        className="rounded border border-line bg-surface px-3 py-0.5 enabled:hover:border-quiet disabled:opacity-60"
      >
        <Trans>Try this synonym</Trans>
      </button>
    </form>
  );
}
