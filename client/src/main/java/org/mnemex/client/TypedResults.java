package org.mnemex.client;

import java.util.List;

/**
 * The answer of a search with results of a type of the caller.
 *
 * @param answer the whole answer
 * @param results the results as that type, in the same order
 */
public record TypedResults<T>(SearchAnswer answer, List<T> results) {}
