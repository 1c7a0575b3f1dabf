import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { api, type SearchNode, type SearchNodeEdition, type StoredEdition } from "../api";
import { count, megabytes, millis } from "../format";
import { type Column, DataTable, numbers } from "../parts/dataTable";
import { Asking, ErrorNotice, Notice } from "../parts/notice";
import { Ago } from "../parts/time";

const REFRESHED_MILLIS = 2000;

/** Other machines that answer searches, and the store that they follow. */
export function NodesPage() {
  return (
    <div className="flex flex-col gap-6">
      <h1 className="text-2xl font-semibold tracking-tight">
        <Trans>Nodes</Trans>
      </h1>
      <SearchNodes />
      <Store />
    </div>
  );
}

/** An edition that a node answers with; none if it has nothing yet. */
interface Held {
  node: SearchNode;
  edition?: SearchNodeEdition;
}

type Shown = Pick<StoredEdition, "index" | "shard" | "edition">;

/** The index that an edition is of, and which shard of it, if it is divided. */
function indexOf({ index, shard }: Shown) {
  return shard === undefined ? index : t`${index}, shard ${shard}`;
}

function identityOf(edition: Shown) {
  return `${indexOf(edition)} ${edition.edition}`;
}

const COLUMNS: Column<Held>[] = [
  { title: t`Node`, value: ({ node }) => node.name, className: "font-semibold" },
  {
    title: t`State`,
    value: ({ node }) => node.state,
    cell: ({ node }) =>
      node.state === "here" ? (
        <Trans>here</Trans>
      ) : (
        <span className="text-warn">
          <Trans>
            away, last heard from <Ago iso={node.seen} />
          </Trans>
        </span>
      ),
  },
  { title: t`Index`, value: ({ edition }) => edition && indexOf(edition) },
  numbers(t`Edition`, ({ edition }) => edition?.edition),
  {
    title: t`True as of`,
    value: ({ edition }) => edition?.trueAt ?? "",
    cell: ({ edition }) => edition?.trueAt && <Ago iso={edition.trueAt} />,
  },
  numbers(t`Size`, ({ edition }) => edition?.bytes, megabytes),
  numbers(t`Lag`, ({ edition }) => edition?.lagMillis, millis),
];

function SearchNodes() {
  const nodes = useQuery({
    queryKey: ["nodes"],
    queryFn: api.nodes,
    refetchInterval: REFRESHED_MILLIS,
  });
  if (nodes.error) return <ErrorNotice error={nodes.error} />;
  if (!nodes.data) return <Asking />;
  const held = nodes.data.flatMap((node): Held[] =>
    node.editions.length === 0 ? [{ node }] : node.editions.map((edition) => ({ node, edition })),
  );
  const here = nodes.data.filter((node) => node.state === "here").length;
  return (
    <section aria-labelledby="nodes">
      <h2 id="nodes" className="text-lg font-semibold">
        <Trans>Search nodes</Trans>
      </h2>
      <p className="mb-1.5 text-quiet">
        {held.length === 0
          ? t`No search node reports to this service. One does if it knows where its builder is, by its setting mnemex.node.builder.`
          : t`${count(here)} of ${count(nodes.data.length)} ${plural(nodes.data.length, { one: "machine", other: "machines" })} can answer searches with copies of what is built here. The lag is the time from publishing a state until a node had it.`}
      </p>
      {nodes.data
        .filter((node) => node.problem !== undefined)
        .map((node) => (
          <Notice key={node.name} tone="bad">
            {`${node.name}: ${node.problem}`}
          </Notice>
        ))}
      {held.length > 0 && (
        <DataTable
          label={t`Search nodes`}
          columns={COLUMNS}
          items={held}
          identity={({ node, edition }) => `${node.name} ${edition && identityOf(edition)}`}
        />
      )}
    </section>
  );
}

const STORED: Column<StoredEdition>[] = [
  { title: t`Index`, value: indexOf, className: "font-semibold" },
  numbers(t`Edition`, (edition) => edition.edition),
  {
    title: t`State`,
    value: (edition) => (edition.live ? t`live` : t`caught up, not live yet`),
  },
  {
    title: t`Written`,
    value: (edition) => edition.written,
    cell: (edition) => <Ago iso={edition.written} />,
  },
  numbers(t`Files`, (edition) => edition.files),
  numbers(t`Size`, (edition) => edition.bytes, megabytes),
];

function Store() {
  const store = useQuery({
    queryKey: ["store"],
    queryFn: api.store,
    refetchInterval: REFRESHED_MILLIS,
  });
  if (store.error) return <ErrorNotice error={store.error} />;
  if (!store.data) return <Asking />;
  const { place, problem, traffic, editions } = store.data;
  return (
    <section aria-labelledby="store">
      <h2 id="store" className="text-lg font-semibold">
        <Trans>Store</Trans>
      </h2>
      <p className="mb-1.5 text-quiet">
        {place === undefined ? (
          <Trans>
            Nothing is published: the service has no store. Its settings begin with mnemex.store.
          </Trans>
        ) : (
          <Trans>
            What is built is published to <code className="font-mono break-all">{place}</code>
          </Trans>
        )}
        {traffic &&
          t`: ${count(traffic.requests)} requests since the start, ${megabytes(traffic.writtenBytes)} written.`}
      </p>
      {problem && <Notice tone="bad">{problem}</Notice>}
      {editions.length > 0 && (
        <DataTable
          label={t`Editions in the store`}
          columns={STORED}
          items={editions}
          identity={identityOf}
        />
      )}
    </section>
  );
}
