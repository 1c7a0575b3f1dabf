// @vitest-environment node
import { expect, it } from "vitest";
import { portionsOf } from "./filePortions";

async function all(text: string, isTable: boolean) {
  const found = [];
  for await (const portion of portionsOf(new Blob([text]), isTable)) found.push(portion);
  return found;
}

it("repeats the first line of a table, and knows the lines", async () => {
  const rows = Array.from({ length: 4500 }, (_, i) =>
    i % 3 === 0 ? `${i},"two\nlines, ""quoted"""\n` : `${i},one\n`,
  );
  const portions = await all(`id,name\n${rows.join("")}`, true);
  expect(portions.length).toBe(3);
  expect(portions.map((one) => one.text.slice("id,name\n".length)).join("")).toBe(rows.join(""));
  const second = portions[1];
  const first = second?.text.split("\n")[1];
  expect(first).toBe("2000,one");
  // The header, and of the rows before every third has two lines.
  expect(second?.lineOf(2)).toBe(1 + 2000 + 667 + 1);
});

it("takes lines of JSON as they are", async () => {
  const lines = Array.from({ length: 2001 }, (_, i) => `{"id": "${i}"}`);
  const portions = await all(lines.join("\n"), false);
  expect(portions.map((one) => one.text).join("")).toBe(lines.join("\n"));
  expect(portions[1]?.lineOf(1)).toBe(2001);
  expect(await all("", false)).toEqual([]);
  expect(await all("id,name\n", true)).toEqual([]);
});
