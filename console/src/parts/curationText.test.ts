// @vitest-environment node
import { expect, it } from "vitest";
import { keysOf, newCuration, withKey } from "./curationText";

it("makes a rule for words, and adds to it", () => {
  const empty = newCuration("spring", "plant-search");
  const one = withKey(empty, "Rose  walk", "first", "QB-1");
  expect(one).toBe(
    empty.replace(
      "rules: {}\n",
      "rules:\n  rose-walk:\n    when: {words: Rose  walk}\n    first: [QB-1]\n",
    ),
  );
  const two = withKey(withKey(one, "rose walk", "first", "QB-2"), "rose walk", "hide", "QB-3");
  expect(keysOf(two, "ROSE walk", "first")).toEqual(["QB-1", "QB-2"]);
  expect(keysOf(two, "rose walk", "hide")).toEqual(["QB-3"]);
  expect(keysOf(two, "rose", "hide")).toEqual([]);
});

it("finds the rule among several, and names another one", () => {
  const text =
    "curation: a\nendpoint: b\nrules:\n  rose: {when: {contains: rose}, hide: [1]}\n" +
    "  # in bloom\n  other: {when: {words: [rosé, tulip]}}\n";
  expect(withKey(text, "tulip", "first", "x")).toBe(text.replace("]}}", "]}, first: [x]}"));
  expect(withKey(text, "rose", "hide", "2")).toContain("  rose-2:\n    when: {words: rose}\n");
  expect(withKey(text, "薔薇", "hide", "2")).toContain("  rule-1:\n");
});
