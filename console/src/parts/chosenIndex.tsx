import { useSearchParams } from "react-router";
import { Pick } from "./pick";

/** The index that the page's address names, or the first one; and what to choose another one with. */
export function useChosenIndex<T extends { name: string }>(indexes: T[]) {
  const [parameters, setParameters] = useSearchParams();
  const index = indexes.find((one) => one.name === parameters.get("index")) ?? indexes[0];
  const choice = index && indexes.length > 1 && (
    <Pick
      label="Index"
      value={index.name}
      options={indexes.map((one) => ({ value: one.name, label: one.name }))}
      onPick={(name) => setParameters({ index: name })}
    />
  );
  return { index, choice };
}

/** A page that has nothing to choose from yet. */
export function NoIndexYet() {
  return (
    <section className="rounded border border-line bg-surface p-6">
      <h1 className="text-xl font-semibold">There is no index yet</h1>
      <p className="mt-1">
        Sources shows the tables of a database and drafts a definition from one of them.
      </p>
    </section>
  );
}
