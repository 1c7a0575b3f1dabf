// Writes the types of what endpoints answer, from the service's OpenAPI document.
import { mkdirSync, readFileSync, writeFileSync } from "node:fs";
import { compile } from "json-schema-to-typescript";

const document = readFileSync(new URL("../docs/reference/openapi.json", import.meta.url), "utf8");
const { schemas } = JSON.parse(document.replaceAll("#/components/schemas/", "#/$defs/")).components;
const wanted = ["SearchAnswer", "SearchAnswerRecords", "SearchAnswerFacet", "SuggestAnswer", "PageView"];
const all = {
  title: "Answers",
  type: "object",
  properties: Object.fromEntries(wanted.map((name) => [name, { $ref: `#/$defs/${name}` }])),
  required: wanted,
  additionalProperties: false,
  $defs: Object.fromEntries(
    Object.entries(schemas).map(([name, schema]) => [name, { ...schema, title: name }]),
  ),
};
const types = await compile(all, "Answers", {
  additionalProperties: false,
  unreachableDefinitions: false,
  bannerComment: "/** Made from docs/reference/openapi.json by types.mjs; not to be edited. */",
});
mkdirSync(new URL("src/generated", import.meta.url), { recursive: true });
writeFileSync(new URL("src/generated/answers.ts", import.meta.url), types);
