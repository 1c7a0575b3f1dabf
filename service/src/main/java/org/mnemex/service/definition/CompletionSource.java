package org.mnemex.service.definition;

import java.util.List;
import org.jspecify.annotations.Nullable;

/** Where completions of what is typed come from. */
public sealed interface CompletionSource {
  /** How many it gives at most while others have more. */
  int most();

  /**
   * Values of text fields.
   *
   * @param of fields with the use {@code suggest}; empty: all that are shown
   * @param recent a field of which the records with the highest values come first, or null
   */
  record Values(List<String> of, @Nullable String recent, int most) implements CompletionSource {}

  /** The last word, completed by words of the searched fields that are shown. */
  record Words(int most) implements CompletionSource {}

  /**
   * Values of facets.
   *
   * @param of facets of the endpoint
   */
  record Facets(List<String> of, int most) implements CompletionSource {}

  /**
   * Given phrases that find something.
   *
   * @param of definitions of phrases
   */
  record Given(List<String> of, int most) implements CompletionSource {}

  /**
   * What people searched for and what finds something.
   *
   * @param least how often it was searched for at least
   */
  record Searched(int least, int most) implements CompletionSource {}
}
