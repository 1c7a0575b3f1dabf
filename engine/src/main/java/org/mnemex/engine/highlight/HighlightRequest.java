package org.mnemex.engine.highlight;

/**
 * How to highlight a field.
 *
 * @param field a stored text field
 * @param fragments how many fragments at most; 0: the whole value
 * @param words how many words a fragment has
 */
public record HighlightRequest(String field, int fragments, int words) {}
