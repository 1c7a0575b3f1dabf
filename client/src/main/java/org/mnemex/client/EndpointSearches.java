package org.mnemex.client;

/**
 * Searches of an endpoint.
 *
 * @param endpoint its name
 * @param searches how many there were
 * @param withoutResults how many without results
 * @param opened of how many a result was opened
 * @param meanMillis how long one took on average, in milliseconds
 */
public record EndpointSearches(
    String endpoint, long searches, long withoutResults, long opened, double meanMillis) {}
