import { expect, test } from "vitest";
import { scorecardText } from "./scorecardText";

test("a scorecard is written as a definition, whatever people type", () => {
  const text = scorecardText({
    name: "graded",
    endpoint: "plant-search",
    top: 10,
    least: 0.5,
    queries: [{ words: 'late "frost": #1', grades: { "QB-1": 3, "a/b~1": 0 } }],
  });
  expect(text).toBe(
    [
      "scorecard: graded",
      "endpoint: plant-search",
      "top: 10",
      "least: 0.5",
      "queries:",
      '  - words: "late \\"frost\\": #1"',
      "    grades:",
      '      "QB-1": 3',
      '      "a/b~1": 0',
      "",
    ].join("\n"),
  );
});
