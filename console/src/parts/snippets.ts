import { t } from "@lingui/core/macro";
import type { Endpoint } from "../api";

export interface Snippet {
  title: string;
  /** What it needs, in a sentence. */
  needs: string;
  code: string;
}

/** Java has no type of its own for most fields of an index. */
const JAVA: Record<string, string> = {
  integer: "Long",
  long: "Long",
  decimal: "Double",
  boolean: "Boolean",
};

/**
 * Calls of an endpoint to copy, in several languages.
 *
 * @param service where the service listens, such as `https://search.example`
 * @param types type of the index's fields by name
 * @param words words to search for
 * @param keys whether the service asks for keys
 */
export function snippets(
  endpoint: Endpoint,
  service: string,
  types: Record<string, string>,
  words: string,
  keys: boolean,
): Snippet[] {
  const name = endpoint.name;
  const facet = Object.entries(endpoint.facets).find(([, one]) =>
    ["exact", "path"].includes(types[one.field] ?? ""),
  )?.[0];
  const title = endpoint.card.title ?? endpoint.show[0] ?? "name";
  const subtitle = endpoint.card.subtitle;
  const shown = [title, ...(subtitle ? [subtitle] : [])];
  const type = javaType(endpoint.index);
  const components = shown.map(
    (field) => `${JAVA[types[field] ?? ""] ?? "String"} ${camel(field)}`,
  );
  const quoted = JSON.stringify(words);
  return [
    {
      title: "curl",
      needs: keys ? t`SEARCH_KEY is a key for this endpoint.` : t`This service asks for no key.`,
      code: `curl -G '${service}/search/${name}' \\
${keys ? '  -H "Authorization: Bearer $SEARCH_KEY" \\\n' : ""}  --data-urlencode ${shell(`q=${words}`)} --data-urlencode 'size=10'`,
    },
    {
      title: "JavaScript",
      needs: t`The package mnemex-search, for pages and for Node.js.`,
      code: `import { EndpointClient, SearchStore } from "mnemex-search";

const client = new EndpointClient({ service: "${service}", endpoint: "${name}"${keys ? ", key" : ""} });
const store = new SearchStore(client, { address: true });
store.subscribe(() => {
  const { answer } = store.state();
  if (answer) console.log(answer.total.count, answer.results.map((one) => one.fields.${title}));
});
store.start();
store.type(${quoted});`,
    },
    {
      title: "React",
      needs: t`The package mnemex-search. The parts have no look; style them by their data-part.`,
      code: `import { EndpointClient, SearchStore, textsFor } from "mnemex-search";
import { ${facet ? "FacetList, " : ""}Pages, Results, SearchBox, SearchProvider, Shown } from "mnemex-search/react";

const client = new EndpointClient({ service: "${service}", endpoint: "${name}"${keys ? ", key" : ""} });
const store = new SearchStore(client, { address: true });

export function ${type}Search() {
  return (
    <SearchProvider store={store} texts={textsFor(navigator.languages).texts}>
      <SearchBox />
${facet ? `      <FacetList name="${facet}" />\n` : ""}      <Results>{(result) => <Shown result={result} name="${title}" />}</Results>
      <Pages />
    </SearchProvider>
  );
}`,
    },
    {
      title: "Java",
      needs: t`The artifact org.mnemex:mnemex-client, which needs nothing but the JDK and Jackson.`,
      code: `record ${type}(String key, ${components.join(", ")}) {}

var client = new MnemexClient(URI.create("${service}"), ClientOptions.usual()${keys ? ".key(key)" : ""});
TypedResults<${type}> found =
    client.search("${name}", SearchQuery.words(${quoted}), ${type}.class);
found.results().forEach(System.out::println);`,
    },
    {
      title: "Spring",
      needs: t`The artifact org.mnemex:mnemex-spring-boot-starter, and mnemex.client.url and .key among the properties.`,
      code: `record ${type}(String key, ${components.join(", ")}) {}

@RestController
class ${type}Controller {
  private final MnemexClient search;

  ${type}Controller(MnemexClient search) {
    this.search = search;
  }

  @GetMapping("/${endpoint.index}")
  List<${type}> find(@RequestParam String q) {
    return search.search("${name}", SearchQuery.words(q), ${type}.class).results();
  }
}`,
    },
  ];
}

const shell = (text: string) => `'${text.replaceAll("'", `'\\''`)}'`;

const camel = (field: string) => field.replace(/[_-]+(.)/g, (_, letter) => letter.toUpperCase());

/** A name for the record's class: plants → Plant. */
function javaType(index: string): string {
  const one = camel(index.replace(/s$/, ""));
  return one.charAt(0).toUpperCase() + one.slice(1);
}
