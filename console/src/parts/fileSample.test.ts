// @vitest-environment node
import { expect, it } from "vitest";
import { sampleOf } from "./fileSample";

it("takes whole lines of the beginning", async () => {
  const row = `${"x".repeat(1000)},1\n`;
  const sample = await sampleOf(new File([row.repeat(2000)], "Tool Shed.v2.csv"));
  expect(sample).toMatchObject({ name: "Tool Shed.v2", format: "csv" });
  expect(sample.text.length % row.length).toBe(0);
  expect(sample.text.length).toBeLessThanOrEqual(1 << 20);
  expect((await sampleOf(new File(["a\n1"], "a.csv"))).text).toBe("a\n1");
});

it("makes lines of a list", async () => {
  const sample = await sampleOf(new File(['[{"a": 1},\n {"b": [2]}]'], "a.json"));
  expect(sample).toEqual({ name: "a", format: "ndjson", text: '{"a":1}\n{"b":[2]}' });
  await expect(sampleOf(new File(["{}"], "a.json"))).rejects.toThrow("not a list");
});
