import { expect, test } from "vitest";
import type { IndexTable } from "../api";
import { BOX_WIDTH, layout } from "./recordLayout";

const table = (name: string, of?: string, many = false, columns = ["id"]): IndexTable => ({
  name,
  table: name,
  of,
  many,
  match: [],
  order: [],
  limit: 0,
  columns,
});

test("what belongs to a table stands right of it, and no two boxes overlap", () => {
  const { boxes, lines, width, height } = layout([
    table("accession"),
    table("taxon", "accession", false, ["name", "genus", "id"]),
    table("family", "taxon"),
    table("sightings", "accession", true),
  ]);
  const at = (name: string) => boxes.find((box) => box.table.name === name) ?? boxes[0];
  expect(at("taxon")?.x).toBeGreaterThan((at("accession")?.x ?? 0) + BOX_WIDTH);
  expect(at("family")?.x).toBeGreaterThan((at("taxon")?.x ?? 0) + BOX_WIDTH);
  for (const a of boxes)
    for (const b of boxes)
      if (a !== b && a.x === b.x) expect(a.y + a.height <= b.y || b.y + b.height <= a.y).toBe(true);
  expect(lines.map((line) => `${line.name} ${line.many}`)).toEqual([
    "taxon false",
    "family false",
    "sightings true",
  ]);
  for (const box of boxes) {
    expect(box.x + BOX_WIDTH).toBeLessThanOrEqual(width);
    expect(box.y + box.height).toBeLessThanOrEqual(height);
  }
});

test("what limits the rows is said", () => {
  const [root, sightings] = layout([
    { ...table("accession"), only: "status <> 'lost'" },
    { ...table("sightings", "accession", true), order: ["-seen_on"], limit: 200, link: "visit" },
  ]).boxes;
  expect(root?.notes).toEqual(["only status <> 'lost'"]);
  expect(sightings?.notes).toEqual([
    "through visit",
    "in order of seen_on, last first",
    "the first 200",
  ]);
});
