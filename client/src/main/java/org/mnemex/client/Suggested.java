package org.mnemex.client;

/**
 * A completion of what was typed.
 *
 * @param text a value of a field
 * @param marked the same as escaped HTML, with {@code <mark>} around what was typed
 * @param key a record that has it
 */
public record Suggested(String text, String marked, String field, String key) {}
