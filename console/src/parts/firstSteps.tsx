import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { Circle, CircleCheck } from "lucide-react";
import type { ReactNode } from "react";
import { Link } from "react-router";
import { api, type IndexStatus } from "../api";
import { percent } from "../format";

/**
 * The steps from an empty service to a search page, with the next one marked. They are derived
 * from the state of the service, so they can be resumed here or with the command line. Nothing is
 * shown once a search page exists.
 */
export function FirstSteps({ indexes }: { indexes: IndexStatus[] }) {
  const sources = useQuery({ queryKey: ["sources"], queryFn: api.sources });
  const endpoints = useQuery({ queryKey: ["endpoints"], queryFn: api.endpoints });
  if (!sources.data || !endpoints.data) return null;
  const filling = indexes.find((index) => !index.live && index.next)?.next;
  const live = indexes.some((index) => index.live);
  const page = endpoints.data[0]?.name;
  const steps = [
    {
      done: sources.data.length > 0,
      title: t`Connect a database, or take a file`,
      how: (
        <Trans>
          <Link className="text-accent underline" to="/console/sources">
            Sources
          </Link>{" "}
          says how, and checks what the database lacks.
        </Trans>
      ),
    },
    {
      done: indexes.length > 0,
      title: t`Describe a record`,
      how: (
        <Trans>
          Choose a table on{" "}
          <Link className="text-accent underline" to="/console/sources">
            Sources
          </Link>
          . The proposal is a definition of an index and an endpoint, to be changed and applied.
        </Trans>
      ),
    },
    {
      done: live,
      title: t`Let the index be filled`,
      how: filling
        ? t`${percent(filling.recordsDone, filling.recordsTotal)} of the records are read.`
        : t`It begins by itself once the definition is applied.`,
    },
    {
      done: live && page !== undefined,
      title: t`Open the search page`,
      how: (
        <Trans>
          An{" "}
          <Link className="text-accent underline" to="/console/endpoints">
            endpoint
          </Link>{" "}
          says what is searched and shown; each has a page that is ready to be used.
        </Trans>
      ),
    },
  ];
  if (steps.every((step) => step.done)) return null;
  const next = steps.findIndex((step) => !step.done);
  return (
    <section className="rounded border border-line bg-surface px-4 py-3" aria-labelledby="first">
      <h2 id="first" className="text-lg font-semibold">
        <Trans>From a database to a search page</Trans>
      </h2>
      <ol className="mt-2 flex flex-col gap-2">
        {steps.map((step, i) => (
          <Step key={step.title} done={step.done} next={i === next} title={step.title}>
            {step.how}
          </Step>
        ))}
      </ol>
      <p className="mt-3 text-quiet">
        <Trans>
          The same with the command line: <code>mnemex source add</code>, <code>mnemex draft</code>,{" "}
          <code>mnemex apply</code>.
        </Trans>
      </p>
    </section>
  );
}

function Step(props: { done: boolean; next: boolean; title: string; children: ReactNode }) {
  return (
    <li className="flex gap-3" aria-current={props.next ? "step" : undefined}>
      {props.done ? (
        <CircleCheck size={20} className="mt-0.5 shrink-0 text-accent" aria-label={t`Done`} />
      ) : (
        <Circle size={20} className="mt-0.5 shrink-0 text-quiet" aria-label={t`To do`} />
      )}
      <div>
        <span className={props.next ? "font-semibold" : props.done ? "text-quiet" : ""}>
          {props.title}
        </span>
        {props.next && <p>{props.children}</p>}
      </div>
    </li>
  );
}
