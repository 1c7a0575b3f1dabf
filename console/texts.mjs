/**
 * The texts of the console, which stand in its code as English: how they are marked there, and
 * which there are. `npm run texts` writes them to `src/texts/english.json`, for those who
 * translate.
 */
import { readdirSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { parseSync, transformSync, traverse } from "@babel/core";
import extracted from "@lingui/babel-plugin-extract-messages";
import macro from "@lingui/babel-plugin-lingui-macro";
import { makeConfig } from "@lingui/conf";

const SOURCES = fileURLToPath(new URL("src", import.meta.url));
const ENGLISH = join(SOURCES, "texts/english.json");

/** Makes calls of the marked texts, for Babel. The English stays in them. */
export const marked = [
  macro,
  {
    extract: true,
    linguiConfig: makeConfig({
      locales: ["en"],
      runtimeConfigModule: { Trans: ["/src/texts/trans.tsx", "Trans"] },
    }),
  },
];

/** Attributes that people see or hear. */
const SEEN = new Set(["label", "aria-label", "title", "placeholder", "alt", "none", "note"]);

/** Elements whose content is typed into a machine. */
const CODE = new Set(["code", "kbd", "pre"]);

/** Whether these are words, rather than our name or that of something in a machine. */
const isText = (words) =>
  /[a-z]{2}/i.test(words) && !/_|\d\./.test(words) && words.trim() !== "Mnemex";

const options = (file, plugins) => ({
  filename: file,
  babelrc: false,
  configFile: false,
  parserOpts: { plugins: ["typescript", "jsx"] },
  plugins,
});

const code = () =>
  readdirSync(SOURCES, { recursive: true })
    .filter((file) => /\.tsx?$/.test(file) && !/\.test\.|^generated/.test(file))
    .sort()
    .map((file) => [file, readFileSync(join(SOURCES, file), "utf8")]);

/** Every text, with the files in which it stands. */
export function texts() {
  const found = new Map();
  for (const [file, text] of code()) {
    const onMessageExtracted = ({ message }) =>
      found.set(message, found.get(message)?.add(file) ?? new Set([file]));
    transformSync(text, options(file, [marked, [extracted, { onMessageExtracted }]]));
  }
  return Object.fromEntries(
    [...found].sort(([a], [b]) => (a < b ? -1 : 1)).map(([text, files]) => [text, [...files].join(", ")]),
  );
}

/** Texts on pages that are not marked, as `file:line: text`. */
export function unmarked() {
  const found = [];
  for (const [file, text] of code()) {
    const add = (node, words) =>
      found.push(`${file}:${node.loc.start.line}: ${words.trim().replace(/\s+/g, " ")}`);
    const within = (path, names) =>
      path.findParent((p) => p.isJSXElement() && names.has(p.node.openingElement.name.name));
    traverse(parseSync(text, options(file, [])), {
      JSXText(path) {
        if (isText(path.node.value) && !within(path, new Set(["Trans", ...CODE])))
          add(path.node, path.node.value);
      },
      JSXAttribute(path) {
        const value = path.node.value;
        if (SEEN.has(path.node.name.name) && value?.type === "StringLiteral" && isText(value.value))
          add(value, value.value);
      },
      "StringLiteral|TemplateLiteral"(path) {
        const words = path.isStringLiteral()
          ? path.node.value
          : path.node.quasis.map((part) => part.value.raw).join("…");
        const place = path.findParent((p) => !p.isConditionalExpression() && !p.isLogicalExpression());
        const shown =
          place.isJSXExpressionContainer() &&
          (!place.parentPath.isJSXAttribute() || SEEN.has(place.parent.name.name));
        if (shown && isText(words) && !within(path, CODE)) add(path.node, words);
      },
    });
  }
  return found;
}

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  writeFileSync(ENGLISH, `${JSON.stringify(texts(), null, 2)}\n`);
}
