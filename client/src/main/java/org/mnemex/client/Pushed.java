package org.mnemex.client;

import org.jspecify.annotations.Nullable;

/**
 * What became of many records that were pushed.
 *
 * @param taken how many were taken
 * @param refused how many were not
 * @param position give it to {@link SearchQuery#trueFor} to find them as they are now
 */
public record Pushed(long taken, long refused, @Nullable String position) {}
