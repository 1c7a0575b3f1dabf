package org.mnemex.engine.suggest;

/**
 * A completion.
 *
 * @param text value of a field
 * @param marked the same value as escaped HTML, with the typed part marked
 * @param field the field
 * @param key key of a document with this value
 * @param withErrors whether what was typed has typing errors
 */
public record Suggestion(
    String text, String marked, String field, String key, boolean withErrors) {}
