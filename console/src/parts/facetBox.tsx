import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Checkbox } from "radix-ui";
import { useId, useRef, useState } from "react";
import type { Facet, FacetValue } from "../api";
import { count } from "../format";

/** The values of a facet, to choose from. */
export function FacetBox(props: {
  facet: Facet;
  find: (begins: string) => Promise<Facet>;
  onToggle: (value: string) => void;
}) {
  const [begins, setBegins] = useState("");
  const [found, setFound] = useState<Facet>();
  const facet = begins && found ? found : props.facet;
  const latest = useRef("");
  const look = (text: string) => {
    setBegins(text);
    latest.current = text;
    // Answers may overtake one another.
    const keep = (answer?: Facet) => latest.current === text && setFound(answer);
    if (text) props.find(text).then(keep, () => keep());
  };
  const most = Math.max(1, ...facet.values.map((v) => v.count));
  const told = facet.statistics;
  if (told) {
    return (
      <section>
        <h3 className="mb-1 font-semibold">{facet.title}</h3>
        <p>
          <Trans>
            {told.least} to {told.greatest}
            {told.mean !== undefined && told.mean !== null && (
              <span className="text-quiet">
                <Trans>, {told.mean.toFixed(1)} on average</Trans>
              </span>
            )}
          </Trans>
        </p>
        {told.percentiles && (
          <p className="text-sm text-quiet">
            {Object.entries(told.percentiles)
              .map(([share, value]) => `${share}%: ${value}`)
              .join(" · ")}
          </p>
        )}
      </section>
    );
  }
  if (props.facet.values.length === 0) return null;
  return (
    <fieldset className="min-w-0">
      <legend className="mb-1 font-semibold">{facet.title}</legend>
      {props.facet.more && props.facet.searchable && (
        <input
          type="search"
          aria-label={t`Find in ${facet.title}`}
          placeholder={t`find in ${facet.title.toLowerCase()}`}
          value={begins}
          onChange={(event) => look(event.target.value)}
          className="mb-1 w-full rounded border border-line bg-surface px-2 py-0.5"
        />
      )}
      {begins && facet.values.length === 0 && (
        <p className="text-sm text-quiet">
          <Trans>none</Trans>
        </p>
      )}
      <ul>
        {facet.values.map((value) => (
          <FacetRow
            key={value.value}
            label={value.label}
            count={value.count}
            chosen={value.chosen}
            share={value.count / most}
            split={value.split}
            onToggle={() => props.onToggle(value.value)}
          />
        ))}
      </ul>
      {facet.more && (
        <p className="text-sm text-quiet">
          <Trans>and more</Trans>
        </p>
      )}
    </fieldset>
  );
}

function FacetRow(props: {
  label: string;
  count: number;
  chosen: boolean;
  share: number;
  split?: FacetValue[];
  onToggle: () => void;
}) {
  const id = useId();
  return (
    <li className="relative flex flex-wrap items-center gap-x-2 py-px">
      <Checkbox.Root
        id={id}
        checked={props.chosen}
        onCheckedChange={props.onToggle}
        className="grid size-4 shrink-0 place-items-center rounded-sm border border-quiet bg-surface data-[state=checked]:border-accent data-[state=checked]:bg-accent"
      >
        <Checkbox.Indicator className="text-on-accent">
          <svg viewBox="0 0 10 10" width="10" height="10" aria-hidden="true">
            <path d="M1.5 5.5 4 8l4.5-6" fill="none" stroke="currentColor" strokeWidth="1.8" />
          </svg>
        </Checkbox.Indicator>
      </Checkbox.Root>
      <label htmlFor={id} className="flex grow cursor-pointer justify-between gap-2">
        <span className={props.chosen ? "font-semibold" : ""}>{props.label}</span>
        <span className="text-quiet">{count(props.count)}</span>
      </label>
      {props.split && props.split.length > 0 && (
        <span className="basis-full truncate pl-6 text-sm text-quiet">
          {props.split
            .slice(0, 3)
            .map((value) => `${value.label} ${count(value.count)}`)
            .join(", ")}
        </span>
      )}
      <span
        aria-hidden
        className="absolute bottom-0 left-6 h-px bg-accent opacity-50"
        style={{ width: `calc(${props.share} * (100% - 1.5rem))` }}
      />
    </li>
  );
}
