package org.mnemex.client;

import org.jspecify.annotations.Nullable;

/**
 * A completion of what was typed.
 *
 * @param text what to put in the place of what was typed
 * @param marked the same as escaped HTML, with {@code <mark>} around what was typed
 * @param from {@code value}, {@code word}, {@code facet}, {@code phrase} or {@code searched}
 * @param field the field of a value
 * @param key a record with this value
 * @param facet the facet of which the text is a value to choose
 */
public record Suggested(
    String text,
    String marked,
    String from,
    @Nullable String field,
    @Nullable String key,
    @Nullable String facet) {}
