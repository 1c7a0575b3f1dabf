export function escapeHtml(text: string): string {
  return text.replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`);
}

/** Text in which only the service's marks are markup: everything else in it is escaped there. */
export function Marked({ html }: { html: string }) {
  const parts = html.split(/<mark>(.*?)<\/mark>/);
  return parts.map((part, i) =>
    i % 2 === 1 ? (
      // biome-ignore lint/suspicious/noArrayIndexKey: parts of a fixed text
      <mark key={i}>{unescapeHtml(part)}</mark>
    ) : (
      unescapeHtml(part)
    ),
  );
}

const ENTITIES: Record<string, string> = {
  "&lt;": "<",
  "&gt;": ">",
  "&quot;": '"',
  "&amp;": "&",
};

/** The characters behind the entities; React escapes them again when it writes them. */
export function unescapeHtml(html: string): string {
  return html.replace(
    /&(?:lt|gt|quot|amp|#(\d+));/g,
    (entity, code) => ENTITIES[entity] ?? String.fromCharCode(Number(code)),
  );
}
