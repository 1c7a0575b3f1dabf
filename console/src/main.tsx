import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { createBrowserRouter, RouterProvider } from "react-router";
import "./app.css";
import { AccessPage } from "./pages/access";
import { AnalysersPage } from "./pages/analysers";
import { EditionsPage } from "./pages/editions";
import { EndpointsPage } from "./pages/endpoints";
import { IndexesPage } from "./pages/indexes";
import { InsightsPage } from "./pages/insights";
import { JobsPage } from "./pages/jobs";
import { OverviewPage } from "./pages/overview";
import { SearchPage } from "./pages/search";
import { SourcesPage } from "./pages/sources";
import { SyncPage } from "./pages/sync";
import { Frame } from "./parts/frame";

const router = createBrowserRouter([
  {
    element: <Frame />,
    children: [
      { path: "/", element: <OverviewPage /> },
      { path: "/console/search", element: <SearchPage /> },
      { path: "/console/analysers", element: <AnalysersPage /> },
      { path: "/console/sources", element: <SourcesPage /> },
      { path: "/console/indexes", element: <IndexesPage /> },
      { path: "/console/endpoints", element: <EndpointsPage /> },
      { path: "/console/insights", element: <InsightsPage /> },
      { path: "/console/editions", element: <EditionsPage /> },
      { path: "/console/sync", element: <SyncPage /> },
      { path: "/console/jobs", element: <JobsPage /> },
      { path: "/console/access", element: <AccessPage /> },
    ],
  },
]);

const queries = new QueryClient({
  defaultOptions: {
    queries: {
      retry: false,
      refetchOnWindowFocus: false,
      // An answer whose keys are in another order is another answer.
      structuralSharing: false,
    },
  },
});

const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={queries}>
        <RouterProvider router={router} />
      </QueryClientProvider>
    </StrictMode>,
  );
}
