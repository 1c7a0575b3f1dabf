package org.mnemex.client;

/**
 * A facet that people choose from.
 *
 * @param facet its name
 * @param searches in how many searches something was chosen in it
 */
public record UsedFacet(String facet, long searches) {}
