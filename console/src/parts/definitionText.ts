import {
  type Document,
  isMap,
  isNode,
  isScalar,
  isSeq,
  type Node,
  type Pair,
  parseDocument,
} from "yaml";

/** Written on one line where it was, without padding, as definitions are usually written. */
const STYLE = { lineWidth: 0, flowCollectionPadding: false };

/** A definition as YAML, or undefined while it cannot be read. */
export function read(text: string): Document | undefined {
  const document = parseDocument(text);
  return document.errors.length === 0 && isMap(document.contents) ? document : undefined;
}

/** A value of the definition in one line; lists and maps as JSON. */
export function written(document: Document, value: unknown): string {
  const plain = isNode(value) ? value.toJS(document) : value;
  return typeof plain === "object" ? JSON.stringify(plain) : String(plain);
}

/** The keys of a map under a key of the definition, in order. */
export function names(document: Document, key: string): string[] {
  const map = document.get(key);
  return isMap(map) ? map.items.map((pair) => nameOf(pair.key)) : [];
}

/** The items of a list under a key of the definition, in order. */
export function items(document: Document, key: string): string[] {
  const list = document.get(key);
  return isSeq(list) ? list.items.map((item) => written(document, item)) : [];
}

const nameOf = (key: unknown): string => String(isScalar(key) ? key.value : key);

/**
 * The text with a change under one key of the definition. All else stays as it is written, with
 * its comments and spaces.
 *
 * @param key a key of the definition
 * @param change changes the definition under this key
 */
export function changed(text: string, key: string, change: (document: Document) => void): string {
  const document = read(text);
  if (!document || !isMap(document.contents)) return text;
  const before = document.contents.items.find((pair) => nameOf(pair.key) === key);
  const keyRange = (before?.key as Node | undefined)?.range;
  const valueRange = (before?.value as Node | null | undefined)?.range ?? keyRange;
  change(document);
  const after = document.contents.items.find((pair) => nameOf(pair.key) === key);
  const section = after ? sectionOf(document, after) : "";
  if (!keyRange || !valueRange) {
    if (section === "") return text;
    return `${text}${text === "" || text.endsWith("\n") ? "" : "\n"}${section}\n`;
  }
  const old = text.slice(keyRange[0], valueRange[1]);
  const end = keyRange[0] + old.trimEnd().length;
  if (section !== "") return text.slice(0, keyRange[0]) + section + text.slice(end);
  // The rest of the line goes with the key.
  const line = text.indexOf("\n", end);
  return text.slice(0, keyRange[0]) + (line < 0 ? "" : text.slice(line + 1));
}

/** A key and its value as the library writes them, without what stands around them. */
function sectionOf(document: Document, pair: Pair): string {
  const alone = document.clone() as Document;
  if (!isMap(alone.contents)) return "";
  const key = nameOf(pair.key);
  alone.contents.items = alone.contents.items.filter((one) => nameOf(one.key) === key);
  alone.comment = null;
  alone.commentBefore = null;
  alone.contents.comment = null;
  alone.contents.commentBefore = null;
  const only = alone.contents.items[0];
  if (only?.key && typeof only.key === "object") {
    (only.key as Node).commentBefore = null;
    (only.key as Node).spaceBefore = false;
  }
  const value = only?.value as Node | undefined;
  // A comment after the value on its line stays where it is in the text.
  if (value && (isScalar(value) || (value as { flow?: boolean }).flow)) value.comment = null;
  return alone.toString(STYLE).trimEnd();
}

/** The text with one thing under a key at another place of its list or map. */
export function moved(text: string, key: string, from: number, to: number): string {
  return changed(text, key, (document) => {
    const all = document.get(key);
    if (!isSeq(all) && !isMap(all)) return;
    const list = all.items as unknown[];
    const [one] = list.splice(from, 1);
    list.splice(to, 0, one);
  });
}

/** The text without one thing of the list or map under a key. */
export function without(text: string, key: string, at: number): string {
  return changed(text, key, (document) => {
    const all = document.get(key);
    if (!isSeq(all) && !isMap(all)) return;
    all.items.splice(at, 1);
    if (all.items.length === 0) document.delete(key);
  });
}

/** The text with a value under a path. */
export function withValue(text: string, path: string[], value: unknown): string {
  return changed(text, path[0] ?? "", (document) => {
    if (value === undefined) document.deleteIn(path);
    else document.setIn(path, oneLine(document, value));
  });
}

/** The text with another item at the end of the list under a key. */
export function withItem(text: string, key: string, item: string): string {
  return changed(text, key, (document) => {
    const all = document.get(key);
    if (isSeq(all)) all.add(item);
    else document.set(key, oneLine(document, [item]));
  });
}

/** The text of synonyms with two words or phrases that mean the same, unless it has them. */
export function withSynonym(text: string, words: string, means: string): string {
  return changed(text, "two_way", (document) => {
    const sets = document.get("two_way");
    const set = oneLine(document, [words, means]);
    if (!isSeq(sets)) document.set("two_way", document.createNode([set]));
    else if (!JSON.stringify(sets.toJSON()).includes(JSON.stringify([words, means]))) sets.add(set);
  });
}

function oneLine(document: Document, value: unknown): unknown {
  if (value === null || typeof value !== "object") return value;
  const node = document.createNode(value);
  if (isMap(node) || isSeq(node)) node.flow = true;
  return node;
}

/** The name in a line such as `index: tools`. */
export function named(kind: string, definitions: string): string | undefined {
  return new RegExp(`^${kind}: *([a-z0-9-]+)`, "m").exec(definitions)?.[1];
}
