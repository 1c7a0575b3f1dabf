import { plural, t } from "@lingui/core/macro";
import { Plural, Trans } from "@lingui/react/macro";
import { ChevronDown, ChevronRight } from "lucide-react";
import { useState } from "react";
import type { IndexChange, IndexStatus } from "../api";
import { count, megabytes, millis } from "../format";
import { IndexCard } from "./indexCard";
import { STATES, type State, stateOf, worstFirst } from "./indexState";

/** Many indexes by state, the worst first; each opens to what is known of it. */
export function IndexList(props: { indexes: IndexStatus[]; changes: IndexChange[] }) {
  const [text, setText] = useState("");
  const [open, setOpen] = useState<string>();
  const wanted = text.trim().toLowerCase();
  const shown = worstFirst(props.indexes).filter(
    (index) => index.name.toLowerCase().includes(wanted) || index.source?.toLowerCase() === wanted,
  );
  const states = Object.keys(STATES) as State[];
  return (
    <section aria-label={t`Indexes`} className="flex flex-col gap-3">
      <div className="flex flex-wrap items-center gap-3">
        <input
          type="search"
          aria-label={t`Part of an index's name, or its source`}
          placeholder={t`Part of a name, or a source`}
          value={text}
          onChange={(event) => setText(event.target.value)}
          className="w-64 rounded border border-line bg-surface px-2.5 py-1.5"
        />
        <output className="text-quiet">
          {wanted
            ? t`${count(shown.length)} of ${count(props.indexes.length)} ${plural(props.indexes.length, { one: "index", other: "indexes" })}`
            : t`${count(props.indexes.length)} ${plural(props.indexes.length, { one: "index", other: "indexes" })}`}
        </output>
      </div>
      {states.map((state) => {
        const group = shown.filter((index) => stateOf(index) === state);
        if (group.length === 0) return null;
        return (
          <div key={state}>
            <h2 className="mb-1 text-lg font-semibold">
              {STATES[state]} <span className="font-normal text-quiet">{count(group.length)}</span>
            </h2>
            <ul className="rounded border border-line bg-surface">
              {group.map((index) => (
                <li key={index.name} className="border-b border-line last:border-0">
                  <Row
                    index={index}
                    isOpen={open === index.name}
                    onOpen={() => setOpen(open === index.name ? undefined : index.name)}
                  />
                  {open === index.name && (
                    <div className="px-3 pb-3">
                      <IndexCard
                        index={index}
                        changes={props.changes.filter((change) => change.index === index.name)}
                      />
                    </div>
                  )}
                </li>
              ))}
            </ul>
          </div>
        );
      })}
    </section>
  );
}

function Row(props: { index: IndexStatus; isOpen: boolean; onOpen: () => void }) {
  const { index } = props;
  const edition = index.live ?? index.next;
  const trouble = edition?.damage ?? index.problem ?? index.held ?? edition?.problem;
  return (
    <button
      type="button"
      aria-expanded={props.isOpen}
      onClick={props.onOpen}
      className="flex w-full flex-wrap items-center gap-x-4 px-3 py-1 text-left hover:bg-ground"
    >
      <span className="flex w-56 items-center gap-1.5 font-semibold">
        {props.isOpen ? (
          <ChevronDown size={15} aria-hidden />
        ) : (
          <ChevronRight size={15} aria-hidden />
        )}
        {index.name}
      </span>
      <span className="w-32 text-quiet">{index.source}</span>
      {edition && (
        <span className="min-w-0 flex-1 text-quiet">
          <Trans>
            {count(edition.documents)}{" "}
            <Plural value={edition.documents} one="document" other="documents" />,{" "}
            {megabytes(edition.bytes)}
          </Trans>
          {edition.lagP99Millis >= 0 && <Trans>, lag {millis(edition.lagP99Millis)}</Trans>}
          {edition.quarantined > 0 && <Trans>, {count(edition.quarantined)} in quarantine</Trans>}
        </span>
      )}
      {trouble && <span className="basis-full pl-5 text-warn">{trouble}</span>}
    </button>
  );
}
