import type { Scorecard } from "../api";

/** A scorecard as a definition file. Texts stand as JSON strings, which YAML 1.2 reads as well. */
export function scorecardText(card: Scorecard): string {
  const lines = [`scorecard: ${card.name}`, `endpoint: ${card.endpoint}`, `top: ${card.top}`];
  if (card.least > 0) lines.push(`least: ${card.least}`);
  if (card.mostFall !== undefined) lines.push(`most_fall: ${card.mostFall}`);
  lines.push("queries:");
  for (const query of card.queries) {
    lines.push(`  - words: ${JSON.stringify(query.words)}`, "    grades:");
    for (const [key, grade] of Object.entries(query.grades)) {
      lines.push(`      ${JSON.stringify(key)}: ${grade}`);
    }
  }
  return `${lines.join("\n")}\n`;
}
