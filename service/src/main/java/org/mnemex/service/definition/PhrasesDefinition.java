package org.mnemex.service.definition;

import org.jspecify.annotations.Nullable;
import org.mnemex.engine.phrase.Phrases;

/**
 * Phrases that complete what people type.
 *
 * @param name name of the definition
 * @param listed the given phrases; none if they come from an index
 * @param from the index that they come from, or null
 */
public record PhrasesDefinition(String name, Phrases listed, @Nullable FromIndex from) {
  /**
   * An index with a record for each phrase.
   *
   * @param index name of the index
   * @param field its text field with the phrases
   * @param weight a number or date of which the highest come first; null: the best fit
   */
  public record FromIndex(String index, String field, @Nullable String weight) {}
}
