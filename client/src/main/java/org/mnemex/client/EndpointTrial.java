package org.mnemex.client;

import java.time.Instant;

/**
 * An endpoint as it would be under definitions that are not applied.
 *
 * @param endpoint the name to call instead of the endpoint's
 * @param until when the trial ends
 */
public record EndpointTrial(String endpoint, Instant until) {}
