/** A part of a file of records that is a file of its own. */
export interface Portion {
  text: string;
  /** The line of the file where a line of the portion is from. */
  lineOf: (line: number) => number;
}

const RECORDS = 2000;
const CHARACTERS = 1 << 20;

/**
 * A table or lines of JSON in portions, of which one is in memory. The first line of a table is
 * repeated. The service answers a portion when it has read it, which shows how far it is.
 */
export async function* portionsOf(file: Blob, isTable: boolean): AsyncGenerator<Portion> {
  let header = "";
  let before = 0;
  let text = "";
  let records = 0;
  let lines = 0;
  for await (const record of recordsOf(file, isTable)) {
    const height = record.split("\n").length - 1;
    if (isTable && header === "") {
      header = record;
      text = header;
      continue;
    }
    text += record;
    lines += height;
    if (++records === RECORDS || text.length > CHARACTERS) {
      yield { text, lineOf: shift(before) };
      before += lines;
      text = header;
      records = 0;
      lines = 0;
    }
  }
  if (records > 0) yield { text, lineOf: shift(before) };
}

const shift = (before: number) => (line: number) => before + line;

/** Lines with their ends; of a table as many as belong to a record (RFC 4180, section 2). */
async function* recordsOf(file: Blob, isTable: boolean): AsyncGenerator<string> {
  const reader = file.stream().pipeThrough(new TextDecoderStream()).getReader();
  let rest = "";
  for (;;) {
    const { value, done } = await reader.read();
    rest += value ?? "";
    let from = 0;
    let quoted = false;
    for (let at = 0; at < rest.length; at++) {
      const character = rest[at];
      if (isTable && character === '"') quoted = !quoted;
      if (character === "\n" && (!quoted || at - from > CHARACTERS)) {
        yield rest.slice(from, at + 1);
        from = at + 1;
        quoted = false;
      }
    }
    rest = rest.slice(from);
    if (done) break;
  }
  if (rest !== "") yield rest;
}
