package org.mnemex.engine.query;

/**
 * A word in a text that was typed.
 *
 * @param start where it begins, in UTF-16 units
 * @param end where it ends, exclusive
 * @param text the word
 */
public record PlainWord(int start, int end, String text) {}
