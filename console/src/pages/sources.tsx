import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation, useQuery } from "@tanstack/react-query";
import { CircleCheck, CircleX, Lightbulb } from "lucide-react";
import { useMemo, useState } from "react";
import { Link, useSearchParams } from "react-router";
import { api, type Requirement, type SourceReader, type SourceTable } from "../api";
import { count } from "../format";
import { Button } from "../parts/button";
import { PlannedEditor } from "../parts/changeDefinition";
import { ConnectDatabase } from "../parts/connectDatabase";
import { type Column, DataTable } from "../parts/dataTable";
import { named } from "../parts/definitionText";
import { useMayChange } from "../parts/mayChange";
import { Asking, ErrorNotice, Notice } from "../parts/notice";
import { Pick } from "../parts/pick";
import { StartFromFile } from "../parts/startFromFile";

/** Databases: do they answer, what do they lack, and what is in them. */
export function SourcesPage() {
  const sources = useQuery({ queryKey: ["sources"], queryFn: api.sources });
  const [parameters, setParameters] = useSearchParams();
  const [another, setAnother] = useState(false);
  if (sources.error) return <ErrorNotice error={sources.error} />;
  if (!sources.data) return <Asking />;
  if (sources.data.length === 0) {
    return (
      <div className="flex flex-col gap-5">
        <h1 className="text-2xl font-semibold tracking-tight">
          <Trans>No database is connected yet</Trans>
        </h1>
        <ConnectDatabase onConnected={(name) => setParameters({ source: name })} />
        <StartFromFile />
      </div>
    );
  }
  const chosen = parameters.get("source") ?? sources.data[0] ?? "";
  return (
    <div className="flex flex-col gap-5">
      <div className="flex flex-wrap items-center gap-3">
        <h1 className="text-2xl font-semibold tracking-tight">
          <Trans>Source {chosen}</Trans>
        </h1>
        {sources.data.length > 1 && (
          <Pick
            label={t`Source`}
            value={chosen}
            options={sources.data.map((name) => ({ value: name, label: name }))}
            onPick={(name) => setParameters({ source: name })}
          />
        )}
        {!another && (
          <Button changes onClick={() => setAnother(true)}>
            <Trans>Connect another</Trans>
          </Button>
        )}
      </div>
      {another && (
        <ConnectDatabase
          onConnected={(name) => {
            setAnother(false);
            setParameters({ source: name });
          }}
        />
      )}
      <CheckList key={`check ${chosen}`} source={chosen} />
      <Tables key={`tables ${chosen}`} source={chosen} />
      <StartFromFile />
    </div>
  );
}

function CheckList({ source }: { source: string }) {
  const check = useQuery({
    queryKey: ["check", source],
    queryFn: () => api.checkSource(source),
    refetchInterval: 15_000,
  });
  if (check.error) return <ErrorNotice error={check.error} />;
  if (!check.data)
    return (
      <p className="text-quiet">
        <Trans>Asking the database …</Trans>
      </p>
    );
  if (!check.data.reachable) return <Notice tone="bad">{check.data.problem}</Notice>;
  const must = check.data.requirements.filter((r) => r.kind !== "ADVICE");
  const missing = must.filter((r) => !r.met);
  const advice = check.data.requirements.filter((r) => r.kind === "ADVICE" && !r.met);
  return (
    <section className="rounded border border-line bg-surface" aria-labelledby="checks">
      <header className="flex flex-wrap items-baseline gap-x-3 border-b border-line px-4 py-2.5">
        <h2 id="checks" className="text-lg font-semibold">
          {missing.length === 0
            ? t`Connected. Everything the indexes need is in place.`
            : t`${count(missing.length)} ${plural(missing.length, { one: "thing", other: "things" })} missing`}
        </h2>
        <span className="ml-auto text-quiet">
          {must.length === 0
            ? t`no index uses it yet`
            : t`${count(must.length)} ${plural(must.length, { one: "check", other: "checks" })}`}
        </span>
      </header>
      <ul className="flex flex-col">
        {[...missing, ...must.filter((r) => r.met), ...advice].map((requirement) => (
          <RequirementLine key={requirement.what} requirement={requirement} />
        ))}
        {check.data.readers
          .filter((reader) => !reader.feeds)
          .map((reader) => (
            <ForeignReader key={reader.name} source={source} reader={reader} />
          ))}
      </ul>
    </section>
  );
}

function RequirementLine({ requirement }: { requirement: Requirement }) {
  const advice = requirement.kind === "ADVICE";
  return (
    <li className="flex items-start gap-2.5 border-b border-line px-4 py-2 last:border-0">
      {requirement.met ? (
        <CircleCheck size={18} className="mt-0.5 shrink-0 text-accent" aria-label={t`met`} />
      ) : advice ? (
        <Lightbulb size={18} className="mt-0.5 shrink-0 text-warn" aria-label={t`advice`} />
      ) : (
        <CircleX size={18} className="mt-0.5 shrink-0 text-bad" aria-label={t`missing`} />
      )}
      <div className="min-w-0">
        {requirement.what}
        {!requirement.met && requirement.statements.length > 0 && (
          // biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls is reached by keyboard
          <pre className="mt-1 overflow-x-auto rounded bg-ground px-3 py-2 text-sm" tabIndex={0}>
            {requirement.statements.join("\n")}
          </pre>
        )}
        {!requirement.met && requirement.kind === "ADMINISTRATIVE" && (
          <p className="text-sm text-quiet">
            <Trans>To be run by an administrator of the database.</Trans>
          </p>
        )}
      </div>
    </li>
  );
}

/** A reader that feeds nothing here makes the database keep changes for ever. */
function ForeignReader({ source, reader }: { source: string; reader: SourceReader }) {
  return (
    <li className="flex items-start gap-2.5 border-b border-line px-4 py-2 last:border-0">
      <Lightbulb size={18} className="mt-0.5 shrink-0 text-warn" aria-label={t`advice`} />
      <div className="min-w-0">
        <Trans>
          {count(reader.retained)} {reader.unit} are kept for the reader {reader.name}, which feeds
          no edition of this service. If no other installation needs it:
        </Trans>
        {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls is reached by keyboard */}
        <pre className="mt-1 overflow-x-auto rounded bg-ground px-3 py-2 text-sm" tabIndex={0}>
          mnemex source drop-reader {source} {reader.name}
        </pre>
      </div>
    </li>
  );
}

function Tables({ source }: { source: string }) {
  const tables = useQuery({ queryKey: ["tables", source], queryFn: () => api.tables(source) });
  const [picked, setPicked] = useState<string>();
  if (tables.error) return <ErrorNotice error={tables.error} />;
  if (!tables.data)
    return (
      <p className="text-quiet">
        <Trans>Reading the tables …</Trans>
      </p>
    );
  if (tables.data.length === 0) {
    return (
      <p className="text-quiet">
        <Trans>This source has no tables. That is right if records are pushed to it.</Trans>
      </p>
    );
  }
  const table = tables.data.find((t) => t.name === picked) ?? tables.data[0];
  return (
    <section aria-labelledby="tables">
      <h2 id="tables" className="mb-1.5 text-lg font-semibold">
        <Trans>Tables</Trans>
      </h2>
      <div className="grid items-start gap-4 md:grid-cols-[15rem_1fr]">
        <ul className="rounded border border-line bg-surface">
          {tables.data.map((one) => (
            <li key={one.name} className="border-b border-line last:border-0">
              <button
                type="button"
                aria-pressed={one === table}
                onClick={() => setPicked(one.name)}
                className={`flex w-full items-baseline gap-2 px-3 py-1.5 text-left ${
                  one === table ? "bg-wash font-semibold text-accent" : "hover:bg-ground"
                }`}
              >
                <span className="truncate">{one.name}</span>
                <span className="ml-auto text-sm font-normal text-quiet">
                  {one.view ? t`view` : one.columns.length}
                </span>
              </button>
            </li>
          ))}
        </ul>
        {table && <TableView key={table.name} source={source} table={table} />}
      </div>
    </section>
  );
}

function TableView({ source, table }: { source: string; table: SourceTable }) {
  const mayChange = useMayChange();
  const rows = useQuery({
    queryKey: ["rows", source, table.name],
    queryFn: () => api.rows(source, table.name),
    enabled: mayChange,
  });
  const draft = useMutation({ mutationFn: () => api.draft(source, table.name) });
  // Rows of a sample have no identity but their place.
  const sample = useMemo(
    () => (rows.data ?? []).map((row, place): SampleRow => ({ row, place })),
    [rows.data],
  );
  const shown = useMemo(
    () =>
      table.columns
        .filter((c) => sample.some(({ row }) => c.name in row))
        .map(
          (c): Column<SampleRow> => ({
            title: c.name,
            value: ({ row }) => sampled(row[c.name]),
            cell: ({ row }) => (
              <span title={String(sampled(row[c.name]))}>{sampled(row[c.name])}</span>
            ),
            className: "max-w-64 truncate",
          }),
        ),
    [table.columns, sample],
  );
  return (
    <div className="flex min-w-0 flex-col gap-3">
      <div className="rounded border border-line bg-surface">
        <div className="flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-line px-3 py-2">
          <h3 className="font-semibold">{table.name}</h3>
          <span className="text-quiet">
            {table.key.length > 0 ? t`key ${table.key.join(", ")}` : t`no primary key`}
          </span>
          {mayChange && !table.view && table.key.length > 0 && (
            <button
              type="button"
              onClick={() => draft.mutate()}
              disabled={draft.isPending}
              className="ml-auto rounded border border-line bg-ground px-3 py-1 disabled:text-quiet"
            >
              <Trans>Propose an index</Trans>
            </button>
          )}
        </div>
        <p className="px-3 py-2 text-sm">
          {table.columns.map((column, i) => (
            <span key={column.name}>
              {i > 0 && <span className="text-quiet"> · </span>}
              <span className="font-semibold">{column.name}</span>{" "}
              <span className="text-quiet">{column.type.toLowerCase()}</span>
            </span>
          ))}
        </p>
      </div>
      {draft.error && <ErrorNotice error={draft.error} />}
      {draft.data && <Proposed table={table.name} yaml={draft.data.yaml} />}
      {rows.error && <ErrorNotice error={rows.error} />}
      {rows.data?.length === 0 && (
        <p className="px-3 py-2 text-quiet">
          <Trans>The table has no rows.</Trans>
        </p>
      )}
      {sample.length > 0 && (
        <DataTable
          label={t`Some rows of ${table.name}`}
          columns={shown}
          items={sample}
          identity={(row) => String(row.place)}
          small
        />
      )}
    </div>
  );
}

/** Definitions of an index and an endpoint, to be reviewed, corrected and applied. */
function Proposed({ table, yaml }: { table: string; yaml: string }) {
  const [applied, setApplied] = useState("");
  const index = named("index", applied);
  return (
    <section
      className="rounded border border-line bg-surface px-4 py-3"
      aria-label={t`Proposed definitions`}
    >
      <p className="mb-1">
        <Trans>
          Review every line, correct it where needed, and apply it. Nothing happens before.
        </Trans>
      </p>
      <PlannedEditor
        key={yaml}
        definition={{ kind: "index", name: table, file: `${table}.yaml`, text: yaml }}
        atOnce
        onApplied={setApplied}
      />
      {index && (
        <p className="mt-2">
          <Link className="text-accent underline" to={`/console/sync?index=${index}`}>
            <Trans>See how index {index} is filled</Trans>
          </Link>
        </p>
      )}
    </section>
  );
}

interface SampleRow {
  row: Record<string, unknown>;
  place: number;
}

function sampled(value: unknown): string | number {
  if (value === undefined) return "";
  return typeof value === "string" || typeof value === "number" ? value : JSON.stringify(value);
}
