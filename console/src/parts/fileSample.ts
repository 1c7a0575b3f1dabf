import { t } from "@lingui/core/macro";
/** The beginning of a file of records, as the service drafts definitions from. */
export interface FileSample {
  name: string;
  format: "csv" | "ndjson";
  text: string;
}

const SAMPLED_BYTES = 1 << 20;
const SAMPLED_RECORDS = 2000;
const MAX_LIST_BYTES = 64 << 20;

/** Reads it. Of long files only the beginning is read, except of lists in JSON. */
export async function sampleOf(file: File): Promise<FileSample> {
  const point = file.name.lastIndexOf(".");
  const name = point > 0 ? file.name.slice(0, point) : file.name;
  const ending = file.name.slice(point + 1).toLowerCase();
  if (ending === "json") {
    if (file.size > MAX_LIST_BYTES) {
      throw new Error(t`A list of more than 64 MB is drafted by the command mnemex draft --file.`);
    }
    const records: unknown = JSON.parse(await file.text());
    if (!Array.isArray(records)) throw new Error(t`${file.name} is not a list of records.`);
    const lines = records.slice(0, SAMPLED_RECORDS).map((record) => JSON.stringify(record));
    return { name, format: "ndjson", text: lines.join("\n") };
  }
  const text = await file.slice(0, SAMPLED_BYTES).text();
  const whole = file.size <= SAMPLED_BYTES ? text.length : text.lastIndexOf("\n") + 1;
  return { name, format: ending === "csv" ? "csv" : "ndjson", text: text.slice(0, whole) };
}
