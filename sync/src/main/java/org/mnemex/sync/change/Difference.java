package org.mnemex.sync.change;

/**
 * One difference between two definitions of an index.
 *
 * @param path keys in the definition, outermost first, joined by dots
 * @param cost its cost
 * @param reason the reason, in a sentence for developers
 */
public record Difference(String path, Cost cost, String reason) {}
