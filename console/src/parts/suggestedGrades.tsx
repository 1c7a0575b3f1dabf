import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Definition, type Endpoint, type OpenedRecord, type Scorecard } from "../api";
import { count, percent } from "../format";
import { Button } from "./button";
import { PlannedEditor } from "./changeDefinition";
import { Asking, ErrorNotice } from "./notice";
import { Pick } from "./pick";
import { scorecardText } from "./scorecardText";

const EVIDENCE = [5, 20, 100];

/** Which records people opened, as grades for a scorecard that somebody has to agree to. */
export function SuggestedGrades({ endpoint, days }: { endpoint: Endpoint; days: number }) {
  const [least, setLeast] = useState(20);
  const [words, setWords] = useState<string>();
  const opened = useQuery({
    queryKey: ["opened", endpoint.name, days, least],
    queryFn: () => api.openedRecords(endpoint.name, days, least),
  });
  if (opened.error) return <ErrorNotice error={opened.error} />;
  const rows = opened.data ?? [];
  const groups = [...new Set(rows.map((row) => row.words))];
  return (
    <div className="mt-2 flex flex-col gap-2">
      <div className="flex flex-wrap items-center gap-3">
        <p className="text-quiet">
          <Trans>
            What people opened, as grades for a scorecard. An open far down the list counts more, as
            few people look there.
          </Trans>
        </p>
        <Pick
          label={t`Evidence`}
          value={String(least)}
          options={EVIDENCE.map((n) => ({ value: String(n), label: t`at least ${n} opens` }))}
          onPick={(n) => setLeast(Number(n))}
        />
      </div>
      {opened.data && groups.length === 0 && (
        <p className="text-quiet">
          <Trans>
            No words have so many opens. Search pages tell which result was opened by{" "}
            <code>POST /search/{endpoint.name}/chosen</code>; the ready page and its React parts do.
          </Trans>
        </p>
      )}
      {groups.map((group) => (
        <Words
          key={group}
          words={group}
          rows={rows.filter((row) => row.words === group)}
          endpoint={endpoint}
          isOpen={words === group}
          onOpen={() => setWords(words === group ? undefined : group)}
        />
      ))}
    </div>
  );
}

function Words(props: {
  words: string;
  rows: OpenedRecord[];
  endpoint: Endpoint;
  isOpen: boolean;
  onOpen: () => void;
}) {
  return (
    <section className="border-t border-line pt-2" aria-label={props.words}>
      <div className="grid items-baseline gap-x-4 gap-y-1 sm:grid-cols-[11rem_minmax(0,1fr)_auto]">
        <h3 className="font-semibold">{props.words}</h3>
        <ul className="flex flex-wrap gap-x-4">
          {props.rows.map((row) => (
            <li key={row.key}>
              {row.key}{" "}
              <span className="text-quiet">
                <Trans>
                  grade {row.grade}, {count(row.opens)} opens, {percent(row.share, 1)}
                </Trans>
              </span>
            </li>
          ))}
        </ul>
        <Button changes onClick={props.onOpen}>
          {props.isOpen ? t`Close` : t`Add to a scorecard`}
        </Button>
      </div>
      {props.isOpen && <Added {...props} />}
    </section>
  );
}

/** The scorecard with these grades, which is applied or not. */
function Added(props: { words: string; rows: OpenedRecord[]; endpoint: Endpoint }) {
  const cards = useQuery({ queryKey: ["scorecards"], queryFn: api.scorecards });
  if (!cards.data) return <Asking />;
  const card = cards.data.find((one) => one.endpoint === props.endpoint.name);
  const name = card?.name ?? `${props.endpoint.name}-grades`;
  return (
    <PlannedEditor
      definition={
        {
          kind: "scorecard",
          name,
          file: `${name}.yaml`,
          text: scorecardText(withGrades(card, name, props)),
        } as Definition
      }
    />
  );
}

function withGrades(
  card: Scorecard | undefined,
  name: string,
  { words, rows, endpoint }: { words: string; rows: OpenedRecord[]; endpoint: Endpoint },
): Scorecard {
  const before = card ?? { name, endpoint: endpoint.name, top: 10, least: 0, queries: [] };
  const judged = before.queries.find((query) => query.words.toLowerCase() === words);
  const suggested = Object.fromEntries(rows.map((row) => [row.key, row.grade]));
  // What people judged stays.
  const grades = { ...suggested, ...judged?.grades };
  const others = before.queries.filter((query) => query !== judged);
  return { ...before, queries: [...others, { words: judged?.words ?? words, grades }] };
}
