import { expect, test } from "vitest";
import { parse } from "yaml";
import { type Connection, sourceText } from "./sourceText";

const GARDEN: Connection = {
  name: "garden",
  kind: "postgres",
  file: "",
  host: "",
  database: "garden",
  user: "mnemex",
  password: "MNEMEX_GARDEN_PASSWORD",
  prepare: false,
};

function written(of: Partial<Connection>) {
  const made = sourceText({ ...GARDEN, ...of });
  return "text" in made ? parse(made.text) : made.lacks;
}

test("a connection is written as a definition whose password is a reference", () => {
  expect(written({ host: "db.quillmere.example" })).toEqual({
    source: "garden",
    kind: "postgres",
    host: "db.quillmere.example",
    database: "garden",
    user: "mnemex",
    // biome-ignore lint/suspicious/noTemplateCurlyInString: that is how a reference is written
    password: "${MNEMEX_GARDEN_PASSWORD}",
  });
  expect(written({ kind: "sqlite", file: " my garden: 1.db", prepare: true })).toEqual({
    source: "garden",
    kind: "sqlite",
    file: "my garden: 1.db",
    prepare: "automatic",
  });
});

test("what is lacking is said, and a password itself is refused", () => {
  expect(written({ name: "The Garden" })).toContain("lower-case");
  expect(written({ database: " " })).toContain("database");
  expect(written({ kind: "sqlite" })).toContain("file");
  expect(written({ password: "tulips-and-roses" })).toContain("MNEMEX_");
});
