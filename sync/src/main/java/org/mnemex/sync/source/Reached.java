package org.mnemex.sync.source;

/**
 * How far a reader is that waits for changes and has none to take.
 *
 * @param upTo everything up to this position was handed out
 * @param allAt a moment, by {@link System#nanoTime}, at which that was all there was
 */
public record Reached(Position upTo, long allAt) {}
