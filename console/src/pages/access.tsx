import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { type AccessKey, api } from "../api";
import { Button } from "../parts/button";
import { ErrorNotice, Notice } from "../parts/notice";
import { Scrolled } from "../parts/scrolled";

const RIGHTS = ["search", "write", "read", "admin"];

/** Keys, and who did what with them. */
export function AccessPage() {
  return (
    <div className="flex flex-col gap-6">
      <h1 className="text-2xl font-semibold tracking-tight">Access</h1>
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
        Keys
      </h2>
      {keys.error && <ErrorNotice error={keys.error} />}
      {act.error && <ErrorNotice error={act.error} />}
      {secret && (
        <div className="mb-2">
          <Notice tone="warn">
            Keep this key now, it is not shown again:{" "}
            <code className="font-semibold break-all">{secret}</code>
          </Notice>
        </div>
      )}
      {keys.data?.length === 0 && <p className="mb-2 text-quiet">There are no keys yet.</p>}
      {(keys.data?.length ?? 0) > 0 && (
        <Scrolled label="Keys, table" className="mb-3 rounded border border-line bg-surface">
          <table className="w-full text-left">
            <thead className="text-sm text-quiet">
              <tr>
                {["Name", "Identifier", "Right", "Limits", "Last used", "Expires", "State", ""].map(
                  (title) => (
                    <th key={title} className="px-4 py-2 font-normal">
                      {title}
                    </th>
                  ),
                )}
              </tr>
            </thead>
            <tbody>
              {keys.data?.map((key) => (
                <tr key={key.id} className="border-t border-line">
                  <td className="px-4 py-2 font-semibold">{key.name}</td>
                  <td className="px-4 py-2 font-mono text-sm">{key.id}</td>
                  <td className="px-4 py-2">{key.right}</td>
                  <td className="px-4 py-2 text-sm">{limits(key)}</td>
                  <td className="px-4 py-2 text-sm whitespace-nowrap">{when(key.lastUsed)}</td>
                  <td className="px-4 py-2 text-sm whitespace-nowrap">{when(key.expires)}</td>
                  <td className={`px-4 py-2 ${key.state === "active" ? "" : "text-quiet"}`}>
                    {key.state}
                  </td>
                  <td className="px-4 py-2">
                    {key.state === "active" && (
                      <span className="flex justify-end gap-2">
                        <Button
                          onClick={() =>
                            act.mutate(async () => setSecret((await api.rotateKey(key.id)).secret))
                          }
                        >
                          Rotate
                        </Button>
                        <Button onClick={() => act.mutate(() => api.revokeKey(key.id))}>
                          Revoke
                        </Button>
                      </span>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </Scrolled>
      )}
      <NewKey
        onCreate={(body) => act.mutate(async () => setSecret((await api.createKey(body)).secret))}
      />
    </section>
  );
}

function limits(key: AccessKey): string {
  const parts = [
    key.right === "search" ? key.endpoints.join(", ") : "",
    key.right === "write" ? key.indexes.join(", ") : "",
    key.filter ? `where ${key.filter}` : "",
    key.origins.length > 0 ? `on ${key.origins.join(", ")}` : "",
    key.networks.length > 0 ? `from ${key.networks.join(", ")}` : "",
    key.perMinute ? `${key.perMinute} a minute` : "",
  ];
  return parts.filter((part) => part !== "").join("; ");
}

function when(time?: string): string {
  return time ? new Date(time).toLocaleString() : "never";
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
      aria-label="New key"
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
        Name
        <input className={field} value={name} onChange={(e) => setName(e.target.value)} />
      </label>
      <label className="flex flex-col gap-0.5 text-sm">
        Right
        <select className={field} value={right} onChange={(e) => setRight(e.target.value)}>
          {RIGHTS.map((one) => (
            <option key={one}>{one}</option>
          ))}
        </select>
      </label>
      {(right === "search" || right === "write") && (
        <label className="flex flex-col gap-0.5 text-sm">
          {right === "search" ? "Endpoints" : "Indexes"}
          <input
            className={field}
            value={named}
            placeholder={right === "search" ? "plant-search" : "tools"}
            onChange={(e) => setNamed(e.target.value)}
          />
        </label>
      )}
      {right === "search" && (
        <label className="flex flex-col gap-0.5 text-sm">
          Filter
          <input
            className={`${field} w-64`}
            value={filter}
            placeholder="optional, as in SQL"
            onChange={(e) => setFilter(e.target.value)}
          />
        </label>
      )}
      <label className="flex flex-col gap-0.5 text-sm">
        Expires
        <input
          className={`${field} w-28`}
          value={expires}
          placeholder="never"
          onChange={(e) => setExpires(e.target.value)}
        />
      </label>
      <button
        type="submit"
        disabled={name === ""}
        className="rounded border border-accent bg-accent px-3 py-1 text-surface hover:opacity-90 disabled:opacity-60"
      >
        Create key
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
          Activity
        </h2>
        <label className="flex items-center gap-1.5 text-sm">
          <input
            type="checkbox"
            checked={refused}
            onChange={(event) => setRefused(event.target.checked)}
          />
          only refused
        </label>
      </div>
      {acts.error && <ErrorNotice error={acts.error} />}
      {acts.data?.length === 0 && <p className="text-quiet">Nothing yet.</p>}
      {(acts.data?.length ?? 0) > 0 && (
        <Scrolled label="Activity, table" className="rounded border border-line bg-surface">
          <table className="w-full text-left text-sm">
            <thead className="text-quiet">
              <tr>
                {["When", "Who", "Key", "From", "What", "Result"].map((title) => (
                  <th key={title} className="px-4 py-2 font-normal">
                    {title}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {acts.data?.map((act) => (
                <tr key={act.id} className="border-t border-line">
                  <td className="px-4 py-1.5 whitespace-nowrap">{when(act.at)}</td>
                  <td className="px-4 py-1.5 font-semibold">{act.caller}</td>
                  <td className="px-4 py-1.5 font-mono">{act.keyId}</td>
                  <td className="px-4 py-1.5">{act.address}</td>
                  <td className="px-4 py-1.5 font-mono break-all">{act.act}</td>
                  <td className={`px-4 py-1.5 ${act.status < 400 ? "" : "text-bad"}`}>
                    {act.status < 400 ? "done" : `refused (${act.status})`}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </Scrolled>
      )}
    </section>
  );
}
