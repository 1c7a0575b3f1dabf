import { isMap, isSeq } from "yaml";
import { changed, names, read } from "./definitionText";

/** What a rule can do to a record. */
export type RuleAct = "first" | "hide";

/** The text of a curation that has no rules yet. */
export function newCuration(name: string, endpoint: string): string {
  return `# What to show first, hide or say for certain queries\ncuration: ${name}\nendpoint: ${endpoint}\nrules: {}\n`;
}

/** The records that the rule for some words puts first or hides. */
export function keysOf(text: string, words: string, act: RuleAct): string[] {
  const document = read(text);
  const rule = document && ruleFor(text, words);
  const list = rule ? document.getIn(["rules", rule, act]) : undefined;
  return isSeq(list) ? (list.toJSON() as unknown[]).map(String) : [];
}

/** The text with a record put first or hidden by the rule for some words, which is made if needed. */
export function withKey(text: string, words: string, act: RuleAct, key: string): string {
  const rule = ruleFor(text, words) ?? nameFor(text, words);
  return changed(text, "rules", (document) => {
    const rules = document.get("rules");
    // An empty map is written on one line, which rules are not.
    if (isMap(rules) && rules.items.length === 0) rules.flow = false;
    if (!document.hasIn(["rules", rule])) {
      const when = document.createNode({ words: words.trim() });
      when.flow = true;
      document.setIn(["rules", rule], document.createNode({ when }));
    }
    const list = document.getIn(["rules", rule, act]);
    if (isSeq(list)) {
      list.add(key);
    } else {
      const one = document.createNode([key]);
      one.flow = true;
      document.setIn(["rules", rule, act], one);
    }
  });
}

/** The first rule for exactly these words, whatever their case. */
function ruleFor(text: string, words: string): string | undefined {
  const document = read(text);
  if (!document) return undefined;
  return names(document, "rules").find((rule) => {
    const when = document.getIn(["rules", rule, "when", "words"]);
    const all = isSeq(when) ? (when.toJSON() as unknown[]) : [when];
    return all.some((one) => plain(String(one)) === plain(words));
  });
}

const plain = (words: string) => words.trim().toLowerCase().split(/\s+/).join(" ");

/** A free name for a rule, made of its words. */
function nameFor(text: string, words: string): string {
  const document = read(text);
  const taken = document ? names(document, "rules") : [];
  const letters = words
    .normalize("NFKD")
    .toLowerCase()
    .replace(/\p{M}/gu, "")
    .replace(/[^a-z0-9]+/g, "-")
    .replace(/^-+|-+$/g, "");
  const wanted = /^[a-z]/.test(letters) ? letters : `rule-${letters || 1}`;
  let name = wanted;
  for (let n = 2; taken.includes(name); n++) name = `${wanted}-${n}`;
  return name;
}
