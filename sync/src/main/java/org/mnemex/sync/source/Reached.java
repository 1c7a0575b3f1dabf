package org.mnemex.sync.source;

import java.time.Duration;

/**
 * How far a reader is that waits for changes and has none to take.
 *
 * @param upTo everything up to this position was handed out
 * @param age how long ago that was all there was
 */
public record Reached(Position upTo, Duration age) {}
