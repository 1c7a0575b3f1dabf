import { cleanup, fireEvent, render, screen, waitFor } from "@testing-library/react";
import { afterEach, expect, test, vi } from "vitest";
import { type Column, DataTable } from "./dataTable";

interface Plant {
  name: string;
  height?: number;
}

const COLUMNS: Column<Plant>[] = [
  { title: "name", value: (plant) => plant.name },
  {
    title: "height",
    value: (plant) => plant.height,
    cell: (plant) => `${plant.height ?? "?"} cm`,
    right: true,
  },
];

const PLANTS: Plant[] = [
  { name: "fern 10", height: 30 },
  { name: "fern 9", height: 120 },
  { name: "Oak, red" },
  { name: "=1+1", height: 4 },
  { name: "rose", height: 90 },
  { name: "sedge", height: 60 },
];

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

function show() {
  const copied: string[] = [];
  vi.stubGlobal("navigator", {
    clipboard: { writeText: async (text: string) => copied.push(text) },
  });
  render(
    <DataTable label="Plants" columns={COLUMNS} items={PLANTS} identity={(plant) => plant.name} />,
  );
  return copied;
}

const names = () =>
  [...document.querySelectorAll("tbody tr td:first-child")].map((cell) => cell.textContent);

test("rows are sorted by numbers and by words, and what has no value stands last", () => {
  show();
  const sort = (title: string) => fireEvent.click(screen.getByRole("button", { name: title }));
  sort("name");
  expect(names().filter((name) => name?.startsWith("fern"))).toEqual(["fern 9", "fern 10"]);
  sort("height");
  const first = names();
  expect(first.at(-1)).toBe("Oak, red");
  expect(screen.getByRole("columnheader", { name: "height" }).getAttribute("aria-sort")).toBe(
    "descending",
  );
  expect(first[0]).toBe("fern 9");
  sort("height");
  expect(names()).toEqual(["=1+1", "fern 10", "sedge", "rose", "fern 9", "Oak, red"]);
});

test("what is shown is copied: rows looked through, in their order, harmless to a spreadsheet", async () => {
  const copied = show();
  const words = screen.getByRole("searchbox", { name: "Look through: Plants" });
  fireEvent.change(words, { target: { value: "FERN" } });
  expect(names()).toEqual(["fern 10", "fern 9"]);
  fireEvent.change(words, { target: { value: "tulip" } });
  expect(screen.getByText("No row has “tulip”.")).toBeTruthy();
  fireEvent.change(words, { target: { value: "" } });
  fireEvent.click(screen.getByRole("button", { name: "Copy as CSV (Plants)" }));
  await waitFor(() => expect(copied).toHaveLength(1));
  const lines = copied[0]?.split("\r\n") ?? [];
  expect(lines[0]).toBe("name,height");
  expect(lines).toContain('"Oak, red",');
  expect(lines).toContain('"\'=1+1",4');
  expect(screen.getByText("Copied")).toBeTruthy();
});
