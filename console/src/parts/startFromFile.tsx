import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation } from "@tanstack/react-query";
import { FileUp } from "lucide-react";
import { useState } from "react";
import { api, type Imported } from "../api";
import { count } from "../format";
import { Button } from "./button";
import { PlannedEditor } from "./changeDefinition";
import { named } from "./definitionText";
import { sampleOf } from "./fileSample";
import { useMayChange } from "./mayChange";
import { ErrorNotice } from "./notice";

/** From a file of records to a search: a draft to review, then the import. */
export function StartFromFile() {
  const [file, setFile] = useState<File>();
  const draft = useMutation({
    mutationFn: async (chosen: File) => {
      const sample = await sampleOf(chosen);
      return api.draftOfFile(sample.name, sample.format, sample.text);
    },
  });
  const [applied, setApplied] = useState("");
  if (!useMayChange()) return null;
  const choose = (chosen: File | undefined) => {
    setFile(chosen);
    setApplied("");
    draft.reset();
    if (chosen) draft.mutate(chosen);
  };
  return (
    <section
      className="rounded border border-line bg-surface px-4 py-3"
      aria-labelledby="start-from-file"
    >
      <h2 id="start-from-file" className="text-lg font-semibold">
        <Trans>Start from a file</Trans>
      </h2>
      <p className="mt-1">
        <Trans>
          A table (.csv), a list of objects (.json) or lines of JSON. Types, languages, facets and
          the key are proposed from its first records; nothing is stored before you apply.
        </Trans>
      </p>
      <label className="mt-2 inline-flex cursor-pointer items-center gap-2 rounded border border-line bg-ground px-3 py-1 focus-within:outline-2 focus-within:outline-accent hover:border-quiet">
        <FileUp size={17} aria-hidden />
        {file ? file.name : t`Choose a file`}
        <input
          type="file"
          accept=".csv,.json,.ndjson,.jsonl"
          className="sr-only"
          onChange={(event) => choose(event.target.files?.[0])}
        />
      </label>
      {draft.isPending && (
        <p className="mt-2 text-quiet">
          <Trans>Reading its first records …</Trans>
        </p>
      )}
      {draft.error && (
        <div className="mt-2">
          <ErrorNotice error={draft.error} />
        </div>
      )}
      {file && draft.data && (
        <div className="mt-3">
          <PlannedEditor
            key={draft.data.yaml}
            definition={{
              kind: "index",
              name: file.name,
              file: `${file.name}.yaml`,
              text: draft.data.yaml,
            }}
            atOnce
            onApplied={setApplied}
          />
          {applied && <Import file={file} definitions={applied} />}
        </div>
      )}
    </section>
  );
}

function Import(props: { file: File; definitions: string }) {
  const index = named("index", props.definitions) ?? "";
  const endpoint = named("endpoint", props.definitions);
  const [so, setSo] = useState<Imported>();
  const push = useMutation({ mutationFn: () => api.importFile(index, props.file, setSo) });
  return (
    <section className="mt-3 rounded bg-ground px-3 py-2" aria-label={t`Import`}>
      <div className="flex flex-wrap items-center gap-3">
        <Button changes main onClick={() => push.mutate()} busy={push.isPending}>
          <Trans>
            Import {props.file.name} into index {index}
          </Trans>
        </Button>
        {so && (
          <output>
            <Trans>
              {count(so.taken)} records taken, {count(so.refused)} refused
              {so.done ? "." : t` so far …`}
            </Trans>
          </output>
        )}
      </div>
      {push.error && <ErrorNotice error={push.error} />}
      {so && so.problems.length > 0 && (
        <ul className="mt-2 max-h-60 overflow-auto text-bad">
          {so.problems.map((one) => (
            <li key={`${one.line} ${one.problem}`}>
              <Trans>
                line {one.line}: {one.problem}
              </Trans>
            </li>
          ))}
        </ul>
      )}
      {so?.done && endpoint && (
        <p className="mt-2">
          <a className="text-accent underline" href={`/pages/${endpoint}`}>
            <Trans>Open the search page of {endpoint}</Trans>
          </a>
        </p>
      )}
    </section>
  );
}
