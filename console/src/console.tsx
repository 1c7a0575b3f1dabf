import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { createBrowserRouter, RouterProvider } from "react-router";
import "./app.css";
import { FailedPage, NoPage } from "./parts/failedPage";
import { Frame } from "./parts/frame";

/** Pages are fetched when they are first opened, so the first one is there at once. */
const router = createBrowserRouter([
  {
    element: <Frame />,
    HydrateFallback: () => null,
    children: [
      {
        // Within the frame, so that the way to the other pages stays.
        ErrorBoundary: FailedPage,
        children: [
          {
            path: "/",
            lazy: async () => ({ Component: (await import("./pages/overview")).OverviewPage }),
          },
          {
            path: "/console/access",
            lazy: async () => ({ Component: (await import("./pages/access")).AccessPage }),
          },
          {
            path: "/console/analysers",
            lazy: async () => ({ Component: (await import("./pages/analysers")).AnalysersPage }),
          },
          {
            path: "/console/editions",
            lazy: async () => ({ Component: (await import("./pages/editions")).EditionsPage }),
          },
          {
            path: "/console/endpoints",
            lazy: async () => ({ Component: (await import("./pages/endpoints")).EndpointsPage }),
          },
          {
            path: "/console/indexes",
            lazy: async () => ({ Component: (await import("./pages/indexes")).IndexesPage }),
          },
          {
            path: "/console/insights",
            lazy: async () => ({ Component: (await import("./pages/insights")).InsightsPage }),
          },
          {
            path: "/console/jobs",
            lazy: async () => ({ Component: (await import("./pages/jobs")).JobsPage }),
          },
          {
            path: "/console/nodes",
            lazy: async () => ({ Component: (await import("./pages/nodes")).NodesPage }),
          },
          {
            path: "/console/search",
            lazy: async () => ({ Component: (await import("./pages/search")).SearchPage }),
          },
          {
            path: "/console/sources",
            lazy: async () => ({ Component: (await import("./pages/sources")).SourcesPage }),
          },
          {
            path: "/console/sync",
            lazy: async () => ({ Component: (await import("./pages/sync")).SyncPage }),
          },
          { path: "*", Component: NoPage },
        ],
      },
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
