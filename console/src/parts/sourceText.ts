import { t } from "@lingui/core/macro";
/** What is asked of somebody who connects a database. */
export interface Connection {
  name: string;
  kind: "postgres" | "mariadb" | "sqlite";
  file: string;
  host: string;
  database: string;
  user: string;
  /** Name of the service's environment variable that holds the password. */
  password: string;
  /** Whether Mnemex may create in the database what it needs to follow it. */
  prepare: boolean;
}

/** The definition of a source, or why there is none yet. */
export function sourceText(of: Connection): { text: string } | { lacks: string } {
  if (!/^[a-z0-9]+(-[a-z0-9]+)*$/.test(of.name)) {
    return { lacks: t`The name: lower-case letters, digits and hyphens.` };
  }
  const lines = [`source: ${of.name}`, `kind: ${of.kind}`];
  if (of.kind === "sqlite") {
    if (of.file.trim() === "") return { lacks: t`The file of the database.` };
    lines.push(`file: ${scalar(of.file)}`);
  } else {
    if (of.database.trim() === "") return { lacks: t`The name of the database.` };
    if (of.user.trim() === "") return { lacks: t`The user.` };
    if (of.password !== "" && !/^MNEMEX_[A-Z0-9_]+$/.test(of.password)) {
      return { lacks: t`The variable with the password: its name begins with MNEMEX_.` };
    }
    if (of.host.trim() !== "") lines.push(`host: ${scalar(of.host)}`);
    lines.push(`database: ${scalar(of.database)}`, `user: ${scalar(of.user)}`);
    if (of.password !== "") lines.push(`password: \${${of.password}}`);
  }
  if (of.prepare) lines.push("prepare: automatic");
  return { text: `${lines.join("\n")}\n` };
}

/** A value as YAML; JSON's strings are YAML's. */
const scalar = (value: string) =>
  /^[A-Za-z0-9_./-]+$/.test(value.trim()) ? value.trim() : JSON.stringify(value.trim());
