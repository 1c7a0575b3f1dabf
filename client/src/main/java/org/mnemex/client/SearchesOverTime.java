package org.mnemex.client;

/**
 * All searches of an hour or day.
 *
 * @param time such as {@code 2026-05-04T10} or {@code 2026-05-04}, UTC
 * @param searches how many there were
 * @param withoutResults how many without results
 * @param opened of how many a result was opened
 * @param meanMillis how long one took on average, in milliseconds
 */
public record SearchesOverTime(
    String time, long searches, long withoutResults, long opened, double meanMillis) {}
