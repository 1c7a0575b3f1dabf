package org.mnemex.service.search;

import org.jspecify.annotations.Nullable;

/**
 * A result that was opened.
 *
 * @param id the id of the answer
 * @param key the key of the record that was opened; null if only the search was meant
 * @param position its place in the answer, from 1; otherwise the first
 */
public record Chosen(String id, @Nullable String key, @Nullable Integer position) {}
