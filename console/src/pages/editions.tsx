import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation, useQuery } from "@tanstack/react-query";
import { api, type EditionStatus, type IndexStatus } from "../api";
import { count, megabytes } from "../format";
import { Button } from "../parts/button";
import { ChangeDefinition } from "../parts/changeDefinition";
import { NoIndexYet, useChosenIndex } from "../parts/chosenIndex";
import { CompareEditions } from "../parts/compareEditions";
import { ErrorNotice, Notice, Waiting } from "../parts/notice";
import { useOverview } from "../parts/overview";
import { Scorecards } from "../parts/scorecards";
import { At } from "../parts/time";

/** Changing an index without fear: plan, editions, comparison, promotion, going back. */
export function EditionsPage() {
  const { overview, connected } = useOverview();
  const index = useChosenIndex(overview?.indexes ?? []);
  const endpoints = useQuery({ queryKey: ["endpoints"], queryFn: api.endpoints });
  if (!overview) return <Waiting connected={connected} />;
  if (!index) return <NoIndexYet />;
  const other = index.next ?? index.former;
  return (
    <div className="flex flex-col gap-5">
      <div className="flex flex-wrap items-center gap-3">
        <h1 className="text-2xl font-semibold tracking-tight">
          <Trans>Editions of {index.name}</Trans>
        </h1>
        <span className="text-quiet">
          <Trans>definition version {index.version}</Trans>
        </span>
      </div>
      <Switches index={index} />
      <div className="grid gap-3 lg:grid-cols-3">
        <EditionCard
          title={t`Previous`}
          edition={index.former}
          none={
            index.live && index.live.number > 1
              ? t`No previous edition: its grace period has ended.`
              : t`No previous edition yet.`
          }
        />
        <EditionCard
          title={t`Live`}
          edition={index.live}
          none={t`The first edition is being filled.`}
        />
        <EditionCard
          title={t`Next`}
          edition={index.next}
          none={t`None. A change below that needs new index files starts one.`}
        />
      </div>
      {other && index.live && other.state !== "filling" && (
        <CompareEditions
          key={`${index.live.number}-${other.number}`}
          live={index.live.number}
          other={other.number}
          endpoints={(endpoints.data ?? []).filter((e) => e.index === index.name)}
        />
      )}
      <Scorecards
        editions={[index.live, other]
          .filter((e) => e !== undefined && e.state !== "filling")
          .map((e) => e?.number ?? 0)}
        endpoints={(endpoints.data ?? []).filter((e) => e.index === index.name)}
      />
      <ChangeDefinition key={index.name} index={index.name} />
    </div>
  );
}

function Switches({ index }: { index: IndexStatus }) {
  const act = useMutation({
    mutationFn: (what: "promote" | "rollback") => api[what](index.name),
  });
  const next = index.next;
  return (
    <>
      {index.held && (
        <Notice tone="warn">
          <Trans>
            Edition {next?.number} is complete: {index.held}.
          </Trans>
        </Notice>
      )}
      {act.error && <ErrorNotice error={act.error} />}
      {(next?.state === "ready" || index.former) && (
        <div className="flex flex-wrap gap-2">
          {next?.state === "ready" && (
            <Button changes main onClick={() => act.mutate("promote")} busy={act.isPending}>
              <Trans>Promote edition {next.number}</Trans>
            </Button>
          )}
          {index.former && (
            <Button changes onClick={() => act.mutate("rollback")} busy={act.isPending}>
              <Trans>Roll back to edition {index.former.number}</Trans>
            </Button>
          )}
        </div>
      )}
    </>
  );
}

function EditionCard(props: { title: string; edition?: EditionStatus; none: string }) {
  const edition = props.edition;
  return (
    <section
      className="flex flex-col rounded border border-line bg-surface px-4 py-3"
      aria-label={props.title}
    >
      <h2 className="text-sm text-quiet">{props.title}</h2>
      {!edition && <p className="mt-1 text-quiet">{props.none}</p>}
      {edition && (
        <>
          <p className="text-xl font-semibold">
            <Trans>Edition {edition.number}</Trans>
          </p>
          <p>
            <Trans>
              {count(edition.documents)} documents, {megabytes(edition.bytes)}
            </Trans>
          </p>
          <p className="text-quiet">
            <Trans>
              Definition version {edition.version}, filled from{" "}
              {edition.fromStored ? t`stored records` : t`the database`}
              {edition.trueAt && (
                <Trans>
                  , up to date as of <At iso={edition.trueAt} />
                </Trans>
              )}
              .
            </Trans>
          </p>
          {edition.until && (
            <p className="text-quiet">
              <Trans>
                Kept and fed until <At iso={edition.until} />.
              </Trans>
            </p>
          )}
          {edition.problem && <p className="text-warn">{edition.problem}</p>}
          {edition.state === "filling" && <Progress edition={edition} />}
        </>
      )}
    </section>
  );
}

function Progress({ edition }: { edition: EditionStatus }) {
  const share = edition.recordsTotal > 0 ? edition.recordsDone / edition.recordsTotal : 0;
  return (
    <div className="mt-2">
      <p className="text-sm text-quiet">
        <Trans>
          {count(edition.recordsDone)} of {count(edition.recordsTotal)} records
          {edition.recordsPerSecond > 0 && (
            <Trans>, {count(edition.recordsPerSecond)} a second</Trans>
          )}
        </Trans>
      </p>
      <div className="mt-1 h-2 overflow-hidden rounded bg-ground">
        <div
          className="h-full bg-accent"
          style={{ width: `${Math.round(100 * Math.min(1, share))}%` }}
        />
      </div>
    </div>
  );
}
