package org.mnemex.client;

import org.jspecify.annotations.Nullable;

/**
 * What became of searches for some words.
 *
 * @param words the words, in lower case
 * @param searches how often they were searched for
 * @param before how often in the time of the same length before
 * @param withoutResults how often without results
 * @param fewResults how often with 1 or 2 results
 * @param meanResults how many results on average
 * @param meanMillis how long a search took on average, in milliseconds
 * @param slowest how long the slowest search took, in milliseconds
 * @param relaxed how often words were left out to find more
 * @param corrected how often other words were suggested
 * @param curated how often a rule of a curation applied
 * @param laterPages how often a page after the first one was asked for
 * @param opened of how many searches a result was opened
 * @param meanPosition the place of the opened results on average, from 1; null if there were none
 */
public record InsightEntry(
    String words,
    long searches,
    long before,
    long withoutResults,
    long fewResults,
    double meanResults,
    double meanMillis,
    double slowest,
    long relaxed,
    long corrected,
    long curated,
    long laterPages,
    long opened,
    @Nullable Double meanPosition) {}
