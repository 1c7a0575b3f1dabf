import { t } from "@lingui/core/macro";
import { useQuery } from "@tanstack/react-query";
import { useEffect } from "react";
import { NavLink, Outlet, useLocation, useNavigate } from "react-router";
import { api, type Job, type Session } from "../api";
import { ChosenIndexProvider, useChosenIndex } from "./chosenIndex";
import { CommandBox } from "./commandBox";
import { Waiting } from "./notice";
import { OverviewProvider, useOverview } from "./overview";
import { GENERAL, OF_INDEX, type Page } from "./pages";
import { Pick } from "./pick";
import { Signed, Who } from "./session";

const JOBS_MILLIS = 3000;

/** What all pages share: the way to the other pages, and the index that they are about. */
export function Frame() {
  return (
    <Signed>
      {(session) => (
        <OverviewProvider>
          <ChosenIndexProvider>
            <Framed session={session} />
          </ChosenIndexProvider>
        </OverviewProvider>
      )}
    </Signed>
  );
}

function Framed({ session }: { session: Session }) {
  const { overview, connected } = useOverview();
  const indexes = overview?.indexes ?? [];
  const index = useChosenIndex(indexes);
  const running = useRunningJobs();
  useTitle(running);
  const general = GENERAL.filter((page) => !page.admin || session.right === "admin");
  return (
    <div className="min-h-screen">
      <header className="border-b border-line bg-surface">
        <div className="mx-auto flex max-w-7xl flex-wrap items-center gap-x-6 gap-y-1 px-4 pt-2.5 sm:px-6">
          <NavLink to="/" className="flex items-center gap-2 text-lg font-semibold tracking-tight">
            <img src="/mark.svg" alt="" width="22" height="22" />
            Mnemex
          </NavLink>
          <nav aria-label={t`Everything`} className="flex flex-wrap gap-1">
            {general.map((page) => (
              <To key={page.to} page={page} address={page.to}>
                {page.to === "/console/jobs" && running.length > 0 && ` (${running.length})`}
              </To>
            ))}
          </nav>
          <div className="ml-auto flex flex-wrap items-center gap-x-4">
            <CommandBox pages={general} indexes={indexes} />
            <Who session={session} />
          </div>
        </div>
        <div className="mx-auto flex max-w-7xl flex-wrap items-center gap-x-6 gap-y-1 px-4 pt-1 pb-2 sm:px-6">
          {index && <IndexChoice name={index.name} names={indexes.map((one) => one.name)} />}
          {index && (
            <nav aria-label={t`Index ${index.name}`} className="flex flex-wrap gap-1">
              {OF_INDEX.map((page) => (
                <To
                  key={page.to}
                  page={page}
                  address={`${page.to}?index=${encodeURIComponent(index.name)}`}
                />
              ))}
            </nav>
          )}
        </div>
      </header>
      <main className="mx-auto max-w-7xl px-4 py-5 sm:px-6">
        {overview || !connected ? <Outlet /> : <Waiting connected />}
      </main>
    </div>
  );
}

function To(props: { page: Page; address: string; children?: React.ReactNode }) {
  return (
    <NavLink
      to={props.address}
      end
      className={({ isActive }) =>
        `rounded px-2.5 py-1 ${isActive ? "bg-wash font-semibold text-accent" : "text-quiet hover:text-ink"}`
      }
    >
      {props.page.title}
      {props.children}
    </NavLink>
  );
}

/** The index that is worked on. Another one opens on the same page. */
function IndexChoice({ name, names }: { name: string; names: string[] }) {
  const navigate = useNavigate();
  const { pathname } = useLocation();
  const page = OF_INDEX.some((one) => one.to === pathname) ? pathname : OF_INDEX[0]?.to;
  if (names.length === 1) return <span className="font-semibold">{name}</span>;
  return (
    <Pick
      label={t`Index`}
      value={name}
      options={names.toSorted().map((one) => ({ value: one, label: one }))}
      onPick={(one) => navigate(`${page}?index=${encodeURIComponent(one)}`)}
    />
  );
}

function useRunningJobs(): Job[] {
  const jobs = useQuery({
    queryKey: ["jobs"],
    queryFn: api.jobs,
    refetchInterval: JOBS_MILLIS,
  });
  return (jobs.data ?? []).filter((job) => job.ended === undefined);
}

/** Says on the browser's tab how far the work is that runs, and which page this is. */
function useTitle(running: Job[]) {
  const { pathname } = useLocation();
  const page = [...GENERAL, ...OF_INDEX].find((one) => one.to === pathname);
  const job = running.find((one) => one.total !== undefined && one.total > 0);
  const share =
    job?.total === undefined
      ? ""
      : `${Math.floor((100 * (job.done ?? 0)) / job.total)}% ${job.kind} · `;
  useEffect(() => {
    document.title = `${share}${page ? `${page.title} · ` : ""}Mnemex`;
  }, [share, page]);
}
