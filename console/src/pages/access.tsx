import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { type AccessKey, type Act, api } from "../api";
import { Button } from "../parts/button";
import { type Column, DataTable } from "../parts/dataTable";
import { ErrorNotice, Notice } from "../parts/notice";
import { At } from "../parts/time";

const RIGHTS = ["search", "write", "node", "read", "admin"];

/** Names of what a key may be for. */
const EXAMPLES: Record<string, string> = { search: "plant-search", write: "tools" };

/** Keys, and who did what with them. */
export function AccessPage() {
  return (
    <div className="flex flex-col gap-6">
      <h1 className="text-2xl font-semibold tracking-tight">
        <Trans>Access</Trans>
      </h1>
      <Keys />
      <Activity />
    </div>
  );
}

function Keys() {
  const queries = useQueryClient();
  const keys = useQuery({ queryKey: ["keys"], queryFn: api.keys });
  const [secret, setSecret] = useState<string>();
  const act = useMutation({
    mutationFn: (work: () => Promise<unknown>) => work(),
    onSettled: () => queries.invalidateQueries({ queryKey: ["keys"] }),
  });
  return (
    <section aria-labelledby="keys">
      <h2 id="keys" className="mb-1.5 text-lg font-semibold">
        <Trans>Keys</Trans>
      </h2>
      {keys.error && <ErrorNotice error={keys.error} />}
      {act.error && <ErrorNotice error={act.error} />}
      {secret && (
        <div className="mb-2">
          <Notice tone="warn">
            <Trans>
              Keep this key now, it is not shown again:{" "}
              <code className="font-semibold break-all">{secret}</code>
            </Trans>
          </Notice>
        </div>
      )}
      {keys.data?.length === 0 && (
        <p className="mb-2 text-quiet">
          <Trans>There are no keys yet.</Trans>
        </p>
      )}
      {(keys.data?.length ?? 0) > 0 && (
        <div className="mb-3">
          <DataTable
            label={t`Keys`}
            columns={KEY_COLUMNS}
            items={keys.data ?? []}
            identity={(key) => key.id}
            acts={(key) =>
              key.state === "active" && (
                <span className="flex justify-end gap-2">
                  <Button
                    onClick={() =>
                      act.mutate(async () => setSecret((await api.rotateKey(key.id)).secret))
                    }
                  >
                    <Trans>Rotate</Trans>
                  </Button>
                  <Button onClick={() => act.mutate(() => api.revokeKey(key.id))}>
                    <Trans>Revoke</Trans>
                  </Button>
                </span>
              )
            }
          />
        </div>
      )}
      <NewKey
        onCreate={(body) => act.mutate(async () => setSecret((await api.createKey(body)).secret))}
      />
    </section>
  );
}

const KEY_COLUMNS: Column<AccessKey>[] = [
  { title: t`Name`, value: (key) => key.name, className: "font-semibold" },
  { title: t`Identifier`, value: (key) => key.id, className: "font-mono text-sm" },
  { title: t`Right`, value: (key) => key.right },
  { title: t`Limits`, value: limits, className: "text-sm" },
  moment(t`Last used`, (key) => key.lastUsed),
  moment(t`Expires`, (key) => key.expires),
  {
    title: t`State`,
    value: (key) => key.state,
    cell: (key) => <span className={key.state === "active" ? "" : "text-quiet"}>{key.state}</span>,
  },
];

function limits(key: AccessKey): string {
  const parts = [
    key.right === "search" ? key.endpoints.join(", ") : "",
    key.right === "write" ? key.indexes.join(", ") : "",
    key.filter ? t`where ${key.filter}` : "",
    key.origins.length > 0 ? t`on ${key.origins.join(", ")}` : "",
    key.networks.length > 0 ? t`from ${key.networks.join(", ")}` : "",
    key.perMinute ? t`${key.perMinute} a minute` : "",
  ];
  return parts.filter((part) => part !== "").join("; ");
}

function NewKey(props: { onCreate: (body: Record<string, unknown>) => void }) {
  const [name, setName] = useState("");
  const [right, setRight] = useState("search");
  const [named, setNamed] = useState("");
  const [filter, setFilter] = useState("");
  const [expires, setExpires] = useState("");
  const field = "rounded border border-line bg-surface px-2 py-1";
  const names = named
    .split(",")
    .map((one) => one.trim())
    .filter((one) => one !== "");
  return (
    <form
      aria-label={t`New key`}
      className="flex flex-wrap items-end gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        props.onCreate({
          name,
          right,
          endpoints: right === "search" ? names : undefined,
          indexes: right === "write" ? names : undefined,
          filter: right === "search" && filter !== "" ? filter : undefined,
          expires: expires === "" ? undefined : expires,
        });
        setName("");
      }}
    >
      <label className="flex flex-col gap-0.5 text-sm">
        <Trans>Name</Trans>
        <input className={field} value={name} onChange={(e) => setName(e.target.value)} />
      </label>
      <label className="flex flex-col gap-0.5 text-sm">
        <Trans>Right</Trans>
        <select className={field} value={right} onChange={(e) => setRight(e.target.value)}>
          {RIGHTS.map((one) => (
            <option key={one}>{one}</option>
          ))}
        </select>
      </label>
      {(right === "search" || right === "write") && (
        <label className="flex flex-col gap-0.5 text-sm">
          {right === "search" ? <Trans>Endpoints</Trans> : <Trans>Indexes</Trans>}
          <input
            className={field}
            value={named}
            placeholder={EXAMPLES[right]}
            onChange={(e) => setNamed(e.target.value)}
          />
        </label>
      )}
      {right === "search" && (
        <label className="flex flex-col gap-0.5 text-sm">
          <Trans>Filter</Trans>
          <input
            className={`${field} w-64`}
            value={filter}
            placeholder={t`optional, as in SQL`}
            onChange={(e) => setFilter(e.target.value)}
          />
        </label>
      )}
      <label className="flex flex-col gap-0.5 text-sm">
        <Trans>Expires</Trans>
        <input
          className={`${field} w-28`}
          value={expires}
          placeholder={t`never`}
          onChange={(e) => setExpires(e.target.value)}
        />
      </label>
      <button
        type="submit"
        disabled={name === ""}
        className="rounded border border-accent bg-accent px-3 py-1 text-surface hover:opacity-90 disabled:opacity-60"
      >
        <Trans>Create key</Trans>
      </button>
    </form>
  );
}

function Activity() {
  const [refused, setRefused] = useState(false);
  const acts = useQuery({
    queryKey: ["activity", refused],
    queryFn: () => api.activity(refused),
    refetchInterval: 5000,
  });
  return (
    <section aria-labelledby="activity">
      <div className="mb-1.5 flex items-center gap-4">
        <h2 id="activity" className="text-lg font-semibold">
          <Trans>Activity</Trans>
        </h2>
        <label className="flex items-center gap-1.5 text-sm">
          <input
            type="checkbox"
            checked={refused}
            onChange={(event) => setRefused(event.target.checked)}
          />
          <Trans>only refused</Trans>
        </label>
      </div>
      {acts.error && <ErrorNotice error={acts.error} />}
      {acts.data?.length === 0 && (
        <p className="text-quiet">
          <Trans>Nothing yet.</Trans>
        </p>
      )}
      {(acts.data?.length ?? 0) > 0 && (
        <DataTable
          label={t`Activity`}
          columns={ACT_COLUMNS}
          items={acts.data ?? []}
          identity={(act) => String(act.id)}
          small
        />
      )}
    </section>
  );
}

const ACT_COLUMNS: Column<Act>[] = [
  moment(t`When`, (act) => act.at),
  { title: t`Who`, value: (act) => act.caller, className: "font-semibold" },
  { title: t`Key`, value: (act) => act.keyId, className: "font-mono" },
  { title: t`From`, value: (act) => act.address },
  { title: t`What`, value: (act) => act.act, className: "font-mono break-all" },
  {
    title: t`Result`,
    value: (act) => (act.status < 400 ? t`done` : t`refused (${act.status})`),
    cell: (act) =>
      act.status < 400 ? t`done` : <span className="text-bad">{t`refused (${act.status})`}</span>,
  },
];

/** A column of moments, or of none. */
function moment<Item>(title: string, value: (item: Item) => string | undefined): Column<Item> {
  return {
    title,
    value,
    cell: (item) => {
      const iso = value(item);
      return iso ? <At iso={iso} /> : t`never`;
    },
    className: "text-sm whitespace-nowrap",
  };
}
