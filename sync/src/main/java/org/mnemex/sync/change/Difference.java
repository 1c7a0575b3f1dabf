package org.mnemex.sync.change;

/**
 * One thing that differs between two definitions of an index.
 *
 * @param path keys in the definition, from the outermost, joined by dots
 * @param cost what it takes
 * @param reason why, in a sentence that a developer understands
 */
public record Difference(String path, Cost cost, String reason) {}
