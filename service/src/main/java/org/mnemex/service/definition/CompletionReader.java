package org.mnemex.service.definition;

import java.util.ArrayList;
import java.util.List;

/** Reads what completes a text as it is typed. */
final class CompletionReader {
  private static final int MOST = 50;
  private static final int LEAST = 3;
  private static final int MAX_LEAST = 1_000_000;

  private CompletionReader() {}

  /** The sources in the order of the definition; those of values if it says nothing. */
  static List<CompletionSource> read(YamlMap endpoint) {
    YamlMap map = endpoint.mapOrNull("completions");
    if (map == null) {
      return List.of(new CompletionSource.Values(List.of(), null, MOST));
    }
    List<CompletionSource> sources = new ArrayList<>();
    map.each(
        kind -> {
          YamlMap one = map.map(kind);
          int most = one.integerOr("most", MOST, 1, MOST);
          sources.add(
              switch (kind) {
                case "values" ->
                    new CompletionSource.Values(one.texts("of"), one.textOr("recent", null), most);
                case "words" -> new CompletionSource.Words(most);
                case "facets" -> new CompletionSource.Facets(one.texts("of"), most);
                case "phrases" -> new CompletionSource.Given(one.texts("of"), most);
                case "searched" ->
                    new CompletionSource.Searched(
                        one.integerOr("least", LEAST, 1, MAX_LEAST), most);
                default ->
                    throw map.problem(
                        kind,
                        "'%s' is none of values, words, facets, phrases, searched".formatted(kind),
                        null);
              });
          one.finish();
        });
    return List.copyOf(sources);
  }
}
