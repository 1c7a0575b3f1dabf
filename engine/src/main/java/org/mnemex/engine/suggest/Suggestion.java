package org.mnemex.engine.suggest;

/**
 * A completion.
 *
 * @param text a value of a field
 * @param marked the same as escaped HTML, with what was typed marked
 * @param field the field
 * @param key a document that has it
 */
public record Suggestion(String text, String marked, String field, String key) {}
