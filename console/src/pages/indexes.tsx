import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { api, type Definition, type IndexField } from "../api";
import { PlannedEditor } from "../parts/changeDefinition";
import { NoIndexYet, useChosenIndex } from "../parts/chosenIndex";
import { type Column, DataTable } from "../parts/dataTable";
import { Asking, ErrorNotice } from "../parts/notice";
import { RecordPicture } from "../parts/recordPicture";
import { RecordPreview } from "../parts/recordPreview";
import { Versions } from "../parts/versions";

/** What an index is made of: its tables, its fields, its definition, and a record on its way. */
export function IndexesPage() {
  const definitions = useQuery({ queryKey: ["definitions"], queryFn: api.definitions });
  const indexes = (definitions.data ?? []).filter((definition) => definition.kind === "index");
  const index = useChosenIndex(indexes);
  if (definitions.error) return <ErrorNotice error={definitions.error} />;
  if (!definitions.data) return <Asking />;
  if (!index) return <NoIndexYet />;
  return (
    <div className="flex flex-col gap-5">
      <div className="flex flex-wrap items-center gap-3">
        <h1 className="text-2xl font-semibold tracking-tight">
          <Trans>Index {index.name}</Trans>
        </h1>
        <span className="text-quiet">
          <Trans>definition version {index.version}</Trans>
        </span>
      </div>
      <IndexShown key={`${index.name} ${index.version}`} definition={index} />
    </div>
  );
}

function IndexShown({ definition }: { definition: Definition }) {
  const [text, setText] = useState(definition.text);
  const shape = useQuery({
    queryKey: ["shape", definition.name, definition.version],
    queryFn: () => api.shape(definition.name),
  });
  if (shape.error) return <ErrorNotice error={shape.error} />;
  if (!shape.data) return <Asking />;
  return (
    <>
      <section className="rounded border border-line bg-surface px-4 py-3">
        <h2 className="text-lg font-semibold">
          <Trans>Tables of a record</Trans>
        </h2>
        <p className="mb-3 text-quiet">
          <Trans>
            One row of {shape.data.tables[0]?.name} of source {shape.data.source}, and the rows that
            belong to it.
            {shape.data.never.length > 0 && (
              <Trans> Never read: {shape.data.never.join(", ")}.</Trans>
            )}
          </Trans>
        </p>
        <RecordPicture tables={shape.data.tables} />
      </section>
      <Fields fields={shape.data.fields} />
      <section
        className="rounded border border-line bg-surface px-4 py-3"
        aria-label={t`Definition`}
      >
        <h2 className="text-lg font-semibold">
          <Trans>Definition</Trans>
        </h2>
        <p className="text-quiet">
          <Trans>
            Press Ctrl+Space for suggestions. Nothing changes before you have seen what it would do.
          </Trans>
        </p>
        <PlannedEditor definition={definition} shape={shape.data} onText={setText} />
      </section>
      <RecordPreview definition={definition} text={text} />
      <Versions definition={definition} />
    </>
  );
}

const FIELD_COLUMNS: Column<IndexField>[] = [
  { title: t`field`, value: (field) => field.name, className: "font-semibold" },
  { title: t`type`, value: (field) => field.type },
  {
    title: t`from`,
    value: (field) => field.from,
    className: "max-w-xs break-words font-mono text-sm",
  },
  {
    title: t`analyser`,
    value: (field) => field.analyser,
    cell: (field) => (
      <>
        {field.analyser}
        {field.queryAnalyser && (
          <span className="text-quiet">
            {" "}
            <Trans>(queries: {field.queryAnalyser})</Trans>
          </span>
        )}
      </>
    ),
  },
  { title: t`used to`, value: (field) => field.uses.join(", "), className: "text-quiet" },
  { title: t`cleaned`, value: (field) => field.clean.join(", "), className: "text-quiet" },
];

function Fields({ fields }: { fields: IndexField[] }) {
  const all = useMemo(() => fields.flatMap((field) => [field, ...field.children]), [fields]);
  return (
    <section aria-label={t`Fields`}>
      <h2 className="mb-1.5 text-lg font-semibold">
        <Trans>{fields.length} fields</Trans>
      </h2>
      <DataTable
        label={t`Fields`}
        columns={FIELD_COLUMNS}
        items={all}
        identity={(field) => field.name}
      />
    </section>
  );
}
