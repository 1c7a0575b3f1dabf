/**
 * A typed client for applications and for the command line. Start with {@link MnemexClient}.
 *
 * <p>All calls go over HTTP. Refusals are a {@link ProblemException} with the place and the
 * suggestion of the problem document (RFC 9457).
 */
@NullMarked
package org.mnemex.client;

import org.jspecify.annotations.NullMarked;
