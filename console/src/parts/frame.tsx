import { NavLink, Outlet } from "react-router";
import { Signed, Who } from "./session";

const PAGES = [
  { to: "/", title: "Overview", admin: false },
  { to: "/console/sources", title: "Sources", admin: false },
  { to: "/console/indexes", title: "Index", admin: false },
  { to: "/console/analysers", title: "Analysers", admin: false },
  { to: "/console/search", title: "Search", admin: false },
  { to: "/console/endpoints", title: "Endpoints", admin: false },
  { to: "/console/insights", title: "Insights", admin: false },
  { to: "/console/editions", title: "Editions", admin: false },
  { to: "/console/sync", title: "Sync", admin: false },
  { to: "/console/jobs", title: "Jobs", admin: false },
  { to: "/console/access", title: "Access", admin: true },
];

/** What all pages share: the name and the way to the other pages, in the order of the job. */
export function Frame() {
  return (
    <Signed>
      {(session) => (
        <div className="min-h-screen">
          <header className="border-b border-line bg-surface">
            <div className="mx-auto flex max-w-7xl flex-wrap items-center gap-x-8 gap-y-1 px-4 py-2.5 sm:px-6">
              <NavLink
                to="/"
                className="flex items-center gap-2 text-lg font-semibold tracking-tight"
              >
                <img src="/mark.svg" alt="" width="22" height="22" />
                Mnemex
              </NavLink>
              <nav aria-label="Pages" className="flex flex-wrap gap-1">
                {PAGES.filter((page) => !page.admin || session.right === "admin").map((page) => (
                  <NavLink
                    key={page.to}
                    to={page.to}
                    end
                    className={({ isActive }) =>
                      `rounded px-2.5 py-1 ${isActive ? "bg-wash font-semibold text-accent" : "text-quiet hover:text-ink"}`
                    }
                  >
                    {page.title}
                  </NavLink>
                ))}
              </nav>
              <div className="ml-auto">
                <Who session={session} />
              </div>
            </div>
          </header>
          <main className="mx-auto max-w-7xl px-4 py-5 sm:px-6">
            <Outlet />
          </main>
        </div>
      )}
    </Signed>
  );
}
