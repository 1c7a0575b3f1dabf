package org.mnemex.client;

import org.jspecify.annotations.Nullable;

/**
 * What one of several endpoints answers; either of the two.
 *
 * @param answer its answer; null if it refused the search
 * @param problem why it refused the search, or null
 */
public record EndpointAnswer(@Nullable SearchAnswer answer, @Nullable Problem problem) {}
