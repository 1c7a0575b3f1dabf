// @vitest-environment node
import { expect, it } from "vitest";
import { items, moved, names, read, withItem, without, withValue, written } from "./definitionText";

const TEXT = `# What the garden's website calls
endpoint: plant-search
index: plants
title: Plants      # what visitors see
search: {number: 8, name: 5}   # the number first
facets:
  # the largest groups
  family:    {field: family, title: Family}
  bed:       {field: bed}        # where it grows
show: [number, name, bed]

sorts: {best: relevance, newest: -planted_on, tallest: [-height_cm, -planted_on]}
page: {size: 20}
`;

it("changes one key and leaves all else as it is written", () => {
  expect(withValue(TEXT, ["search", "name"], 2.5)).toBe(
    TEXT.replace("{number: 8, name: 5}", "{number: 8, name: 2.5}"),
  );
  expect(withValue(TEXT, ["title"], "Plants: all")).toBe(
    TEXT.replace("title: Plants ", 'title: "Plants: all" '),
  );
  expect(moved(TEXT, "show", 2, 0)).toBe(
    TEXT.replace("[number, name, bed]", "[bed, number, name]"),
  );
  expect(withItem(TEXT, "show", "notes")).toBe(TEXT.replace("bed]", "bed, notes]"));
  expect(without(TEXT, "sorts", 1)).toBe(TEXT.replace(" newest: -planted_on,", ""));
});

it("keeps the comments of what it moves", () => {
  const changed = moved(TEXT, "facets", 1, 0);
  expect(names(read(changed) as never, "facets")).toEqual(["bed", "family"]);
  expect(changed).toContain("# where it grows");
  expect(changed).toContain("# the largest groups");
  expect(changed.slice(changed.indexOf("show:"))).toBe(TEXT.slice(TEXT.indexOf("show:")));
  expect(changed.slice(0, changed.indexOf("facets:"))).toBe(TEXT.slice(0, TEXT.indexOf("facets:")));
});

it("adds keys that are not there, and removes what is empty", () => {
  const added = withValue(TEXT, ["facets", "height"], { field: "height_cm" });
  expect(added).toContain("\n  height: {field: height_cm}\nshow:");
  expect(withItem("endpoint: a\nindex: b", "show", "name")).toBe(
    "endpoint: a\nindex: b\nshow: [name]\n",
  );
  expect(without("endpoint: a\nshow: [name]   # only that\npage: {size: 1}\n", "show", 0)).toBe(
    "endpoint: a\npage: {size: 1}\n",
  );
  expect(withValue("", ["title"], "T")).toBe("");
});

it("reads what stands there", () => {
  const document = read(TEXT) as NonNullable<ReturnType<typeof read>>;
  expect(items(document, "show")).toEqual(["number", "name", "bed"]);
  expect(names(document, "sorts")).toEqual(["best", "newest", "tallest"]);
  expect(written(document, document.getIn(["sorts", "tallest"], true))).toBe(
    '["-height_cm","-planted_on"]',
  );
  expect(read("a: [")).toBeUndefined();
  expect(read("only words")).toBeUndefined();
});
