// @vitest-environment node
import { readFileSync } from "node:fs";
import { expect, test } from "vitest";
import { texts, unmarked } from "../../texts.mjs";

test("every text on a page is marked", () => {
  expect(unmarked()).toEqual([]);
});

test("the list for translators is that of the code; `npm run texts` writes it", () => {
  expect(JSON.parse(readFileSync("src/texts/english.json", "utf8"))).toEqual(texts());
});
