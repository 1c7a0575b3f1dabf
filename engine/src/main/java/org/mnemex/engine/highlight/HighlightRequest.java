package org.mnemex.engine.highlight;

/**
 * How to highlight a field.
 *
 * @param field a stored field, but no place and no group. Text fields have words marked; others
 *     whole values, those that the query, the filter or a choice asks for
 * @param fragments how many fragments at most; 0: the whole value
 * @param words how many words a fragment has
 * @param sentences whether fragments are whole sentences, as far as these are not too long
 * @param open what stands before what is marked; not escaped
 * @param close what stands after it; not escaped
 */
public record HighlightRequest(
    String field, int fragments, int words, boolean sentences, String open, String close) {
  /** Marked as in HTML, cut between words. */
  public HighlightRequest(String field, int fragments, int words) {
    this(field, fragments, words, false, "<mark>", "</mark>");
  }
}
