import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Tabs } from "radix-ui";
import { useContext, useState } from "react";
import { api, type Endpoint, type IndexShape } from "../api";
import { Button } from "./button";
import { CopyButton } from "./copyButton";
import { CurrentSession } from "./mayChange";
import { ErrorNotice, Notice } from "./notice";
import { snippets } from "./snippets";
import { Views } from "./views";

/** What a frontend team is given: code, a key, and a link to the page. */
export function CodeToCopy(props: { endpoint: Endpoint; shape: IndexShape; words: string }) {
  const { endpoint, shape } = props;
  const [secret, setSecret] = useState<string>();
  const types = Object.fromEntries(shape.fields.map((field) => [field.name, field.type]));
  const { keys } = useContext(CurrentSession);
  const words = props.words || "rose";
  const all = snippets(endpoint, window.location.origin, types, words, keys);
  const page = `${window.location.origin}/pages/${encodeURIComponent(endpoint.name)}`;
  const query = props.words === "" ? "" : `?q=${encodeURIComponent(props.words)}`;
  const link = page + query + (secret ? `#key=${secret}` : "");
  return (
    <section className="rounded border border-line bg-surface px-4 py-3" aria-label={t`Use it`}>
      <h2 className="text-lg font-semibold">
        <Trans>Use it</Trans>
      </h2>
      <div className="mt-1 flex flex-wrap items-center gap-x-3 gap-y-1">
        <span className="text-quiet">
          <Trans>A link to hand around:</Trans>
        </span>
        <a href={link} target="_blank" rel="noreferrer" className="break-all text-accent underline">
          {link}
        </a>
        <CopyButton what={t`the link`} text={() => link} />
        <KeyButton endpoint={endpoint.name} secret={secret} onSecret={setSecret} />
      </div>
      <Tabs.Root defaultValue={all[0]?.title} className="mt-2">
        <Views
          label={t`Language`}
          views={all.map((one) => ({ value: one.title, title: one.title }))}
        />
        {all.map((one) => (
          <Tabs.Content key={one.title} value={one.title} className="mt-1">
            <div className="flex items-center justify-between gap-3">
              <p className="text-quiet">{one.needs}</p>
              <CopyButton what={t`the code for ${one.title}`} text={() => one.code} />
            </div>
            <pre
              // biome-ignore lint/a11y/noNoninteractiveTabindex: it is scrolled by keyboard
              tabIndex={0}
              className="mt-1 overflow-x-auto rounded bg-ground px-3 py-2 font-mono text-sm"
            >
              {one.code}
            </pre>
          </Tabs.Content>
        ))}
      </Tabs.Root>
    </section>
  );
}

/** Makes a key that can only search this endpoint. */
function KeyButton(props: {
  endpoint: string;
  secret?: string;
  onSecret: (secret: string) => void;
}) {
  const session = useContext(CurrentSession);
  const queries = useQueryClient();
  const create = useMutation({
    mutationFn: () =>
      api.createKey({
        name: `page ${props.endpoint}`,
        right: "search",
        endpoints: [props.endpoint],
      }),
    onSuccess: ({ secret }) => {
      props.onSecret(secret);
      queries.invalidateQueries({ queryKey: ["keys"] });
    },
  });
  if (!session.keys)
    return (
      <span className="text-quiet">
        <Trans>This service works without keys.</Trans>
      </span>
    );
  const { secret } = props;
  if (secret) {
    return (
      <Notice tone="warn">
        <Trans>
          The link has this key, which is not shown again. Whoever has the link can search with it:{" "}
          <code className="break-all">{secret}</code>{" "}
        </Trans>
        <CopyButton what={t`the key`} text={() => secret} />
      </Notice>
    );
  }
  return (
    <>
      <Button changes onClick={() => create.mutate()} busy={create.isPending}>
        <Trans>Create a key that only searches here</Trans>
      </Button>
      {create.error && <ErrorNotice error={create.error} />}
    </>
  );
}
