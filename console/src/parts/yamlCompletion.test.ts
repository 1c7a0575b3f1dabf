import { expect, test } from "vitest";
import { offers, type Schema } from "./yamlCompletion";

const field: Schema = {
  type: "object",
  properties: {
    from: { type: "string" },
    type: { enum: ["text", "exact", "date"] },
    analyser: { type: "string", description: "how text is cut" },
    fold: { type: "boolean" },
    uses: { else: { enum: ["search", "show"] }, items: { enum: ["search", "show"] } },
  },
};
const schemas: Record<string, Schema> = {
  index: {
    type: "object",
    properties: {
      index: { type: "string" },
      source: { type: "string" },
      record: { type: "object", properties: { root: {}, only: {} } },
      fields: { type: "object", additionalProperties: { $ref: "#/$defs/field" } },
    },
    $defs: { field },
  },
  analyser: {
    type: "object",
    properties: { analyser: {}, filters: { type: "array", items: { enum: ["lowercase"] } } },
  },
};
const names = { analyser: ["english", "botanical"], source: ["garden"], from: ["taxon.name_en"] };

/** What is offered where the bar stands. */
function at(text: string): string[] {
  const offset = text.indexOf("|");
  const whole = text.slice(0, offset) + text.slice(offset + 1);
  return offers(whole, offset, schemas, names).offers.map((offer) => offer.label);
}

test("an empty file offers kinds of definitions", () => {
  expect(at("|")).toEqual(["index", "analyser"]);
  expect(at("index: plants\n---\nan|")).toEqual(["index", "analyser"]);
});

test("keys that are not there yet, by the indentation", () => {
  expect(at("index: plants\nrecord:\n  root: accession\n|")).toEqual(["source", "fields"]);
  expect(at("index: plants\nrecord:\n  root: accession\n  on|")).toEqual(["only"]);
  expect(at("index: plants\nfields:\n  name:\n    from: name\n    |")).toEqual([
    "type",
    "analyser",
    "fold",
    "uses",
  ]);
});

test("keys and values within braces and brackets", () => {
  expect(at("index: plants\nfields:\n  name: {from: name, |}")).toEqual([
    "type",
    "analyser",
    "fold",
    "uses",
  ]);
  expect(at("index: plants\nfields:\n  name: {from: name, type: te|")).toEqual([
    "text",
    "exact",
    "date",
  ]);
  expect(at("index: plants\nfields:\n  name: {uses: [search, |")).toEqual(["search", "show"]);
});

test("values: words of the schema, and names that are known", () => {
  expect(at("index: plants\nsource: |")).toEqual(["garden"]);
  expect(at("index: plants\nfields:\n  name: {analyser: en|")).toEqual(["english", "botanical"]);
  expect(at("index: plants\nfields:\n  name:\n    from: |")).toEqual(["taxon.name_en"]);
  expect(at("index: plants\nfields:\n  name:\n    fold: |")).toEqual(["true", "false"]);
  expect(at("analyser: mine\nfilters:\n  - lo|")).toEqual(["lowercase"]);
});

test("the word that is being written is replaced", () => {
  const text = "index: plants\nfields:\n  name: {type: te";
  expect(offers(text, text.length, schemas, names).from).toBe(text.length - 2);
});
