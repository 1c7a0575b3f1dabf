import { cleanup, render, screen } from "@testing-library/react";
import axe from "axe-core";
import { createMemoryRouter, RouterProvider } from "react-router";
import { afterEach, expect, test, vi } from "vitest";
import { FailedPage, NoPage } from "./failedPage";

vi.mock("./mayChange", () => ({ useMayChange: () => true }));

afterEach(cleanup);

function open(address: string) {
  const router = createMemoryRouter(
    [
      {
        ErrorBoundary: FailedPage,
        HydrateFallback: () => null,
        children: [
          {
            path: "/upgraded",
            lazy: () => Promise.reject(new TypeError("the page's script is gone")),
          },
          { path: "*", Component: NoPage },
        ],
      },
    ],
    { initialEntries: [address] },
  );
  return render(<RouterProvider router={router} />);
}

test("an address without a page says so and leads on", async () => {
  const { container } = open("/console/indexes/plants");
  expect(await screen.findByRole("heading")).toHaveProperty(
    "textContent",
    "There is no page at this address",
  );
  expect(screen.getByRole("link", { name: "the overview" }).getAttribute("href")).toBe("/");
  expect((await axe.run(container)).violations).toEqual([]);
});

test("a page that cannot be fetched says why and can be loaded again", async () => {
  open("/upgraded");
  expect((await screen.findByRole("alert")).textContent).toBe("the page's script is gone");
  expect(screen.getByRole("button", { name: "Load again" })).toBeTruthy();
});
