import { isMap, parseDocument } from "yaml";

/** As much of JSON Schema as the schemas of definitions use. */
export interface Schema {
  $ref?: string;
  $defs?: Record<string, Schema>;
  description?: string;
  type?: string | string[];
  enum?: unknown[];
  properties?: Record<string, Schema>;
  additionalProperties?: Schema | boolean;
  items?: Schema;
  then?: Schema;
  else?: Schema;
  examples?: unknown[];
}

export interface Offer {
  label: string;
  detail?: string;
  /** What is written instead of the label. */
  apply?: string;
}

/** Names that may stand somewhere, by the key they stand under. */
export type Names = Record<string, string[]>;

interface Place {
  /** The keys that lead here; "-" for an item of a list. */
  path: string[];
  /** The key whose value is being written; undefined while a key is. */
  key?: string;
  /** Where the word that is being written begins. */
  from: number;
  /** Where the document of this definition begins. */
  start: number;
}

/**
 * What may be written at a place of a definition file.
 *
 * @param offset in the text, in characters
 * @param schemas by kind of definition
 */
export function offers(
  text: string,
  offset: number,
  schemas: Record<string, Schema>,
  names: Names,
): { from: number; offers: Offer[] } {
  const place = placeAt(text, offset);
  const document = text.slice(place.start).split(/^---/m)[0] ?? "";
  const kind = /^([a-z]+):/m.exec(document)?.[1] ?? "";
  const root = schemas[kind];
  if (!root) {
    const kinds = place.key === undefined && place.path.length === 0 ? Object.keys(schemas) : [];
    return { from: place.from, offers: kinds.map((name) => key(name, {})) };
  }
  let here = unfold([root], root);
  for (const step of place.path) here = unfold(inside(here, step), root);
  if (place.key === undefined) {
    const there = new Set(present(document, place.path));
    const found = new Map<string, Schema>();
    for (const schema of here)
      for (const [name, of] of Object.entries(schema.properties ?? {})) found.set(name, of);
    // An item of a list may be a value as well as keys.
    const items = place.path.at(-1) === "-" ? here.flatMap(words).map((label) => ({ label })) : [];
    return {
      from: place.from,
      offers: [
        ...items,
        ...[...found]
          .filter(([name]) => !there.has(name) || text.slice(place.from, offset) === name)
          .map(([name, of]) => key(name, of)),
      ],
    };
  }
  const values = unfold(inside(here, place.key), root);
  const named = [...place.path, place.key].findLast((step) => step !== "-") ?? "";
  return {
    from: place.from,
    offers: [...new Set([...(names[named] ?? []), ...values.flatMap(words)])].map((label) => ({
      label,
    })),
  };
}

function key(name: string, schema: Schema): Offer {
  return { label: name, detail: schema.description, apply: `${name}: ` };
}

function words(schema: Schema): string[] {
  const items = schema.items ? words(schema.items) : [];
  const truth = schema.type === "boolean" ? ["true", "false"] : [];
  return [...(schema.enum ?? schema.examples ?? []).map(String), ...truth, ...items];
}

function inside(schemas: Schema[], step: string): Schema[] {
  return schemas.flatMap((schema) => {
    if (step === "-") return schema.items ? [schema.items] : [];
    const property = schema.properties?.[step];
    if (property) return [property];
    return typeof schema.additionalProperties === "object" ? [schema.additionalProperties] : [];
  });
}

/** The schemas that references and alternatives stand for. */
function unfold(schemas: Schema[], root: Schema): Schema[] {
  return schemas.flatMap((schema) => {
    const name = schema.$ref?.replace("#/$defs/", "");
    const referred = name === undefined ? undefined : root.$defs?.[name];
    const others = [referred, schema.then, schema.else].filter((other) => other !== undefined);
    return [schema, ...unfold(others, root)];
  });
}

/** The keys that are written already at a path. */
function present(document: string, path: string[]): string[] {
  const parsed = parseDocument(document, { strict: false });
  const at =
    path.length === 0
      ? parsed.contents
      : parsed.getIn(
          path.filter((s) => s !== "-"),
          true,
        );
  return isMap(at) ? at.items.map((item) => String(item.key)) : [];
}

/**
 * Where in a document a place is. Blocks are told by their indentation, as far as the line of the
 * place; braces and brackets are followed to the place itself. The text need not be valid.
 */
export function placeAt(text: string, offset: number): Place {
  const before = text.slice(0, offset);
  const separator = before.lastIndexOf("\n---");
  const start = separator < 0 ? 0 : before.indexOf("\n", separator + 1) + 1 || offset;
  const blocks: { indent: number; key: string }[] = [];
  let flow: { list: boolean; key?: string }[] = [];
  let key: string | undefined;
  let word = start;
  for (let at = start; at <= offset; ) {
    const end = text.indexOf("\n", at);
    const lineEnd = Math.min(end < 0 ? text.length : end, offset);
    const line = text.slice(at, lineEnd);
    let i = 0;
    if (flow.length === 0) {
      key = undefined;
      const lead = /^ */.exec(line)?.[0].length ?? 0;
      i = lead;
      const blank = line.trim() === "" && lineEnd < offset;
      if (!blank) while (blocks.length > 0 && (blocks.at(-1)?.indent ?? 0) >= i) blocks.pop();
      while (line.startsWith("- ", i)) {
        blocks.push({ indent: i, key: "-" });
        i += 2;
      }
      const named = /^([\w.-]+):(?= |$)/.exec(line.slice(i));
      if (named?.[1]) {
        key = named[1];
        blocks.push({ indent: i, key });
        i += named[0].length;
        while (line[i] === " ") i++;
      }
      word = at + i;
    }
    let quote = "";
    for (; i < line.length; i++) {
      const c = line[i] ?? "";
      if (quote) {
        if (c === quote) quote = "";
      } else if (c === "'" || c === '"') {
        quote = c;
      } else if (c === "#" && (i === 0 || line[i - 1] === " ")) {
        break;
      } else if (c === "{" || c === "[") {
        flow = [...flow, { list: c === "[" }];
        word = at + i + 1;
      } else if (c === "}" || c === "]") {
        flow = flow.slice(0, -1);
        word = at + i + 1;
      } else if (flow.length > 0 && (c === "," || (c === ":" && line[i + 1] !== ":"))) {
        const last = flow.at(-1);
        if (last && c === ":") last.key = text.slice(word, at + i).trim();
        else if (last) last.key = undefined;
        word = at + i + 1;
      } else if (c === " " && text.slice(word, at + i).trim() === "") {
        word = at + i + 1;
      }
    }
    if (end < 0 || end >= offset) break;
    at = end + 1;
  }
  const path = blocks.map((block) => block.key);
  if (flow.length === 0) {
    if (key !== undefined) path.pop();
    return { path, key, from: word, start };
  }
  for (const [depth, level] of flow.entries()) {
    const last = depth === flow.length - 1;
    if (level.list) {
      if (!last) path.push("-");
    } else if (level.key !== undefined && !last) {
      path.push(level.key);
    }
  }
  const last = flow.at(-1);
  return { path, key: last?.list ? "-" : last?.key, from: word, start };
}
