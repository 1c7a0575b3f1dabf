/**
 * Search endpoints over HTTP: from parameters to a request of the engine, from its result to JSON.
 * Start with {@link EndpointController}.
 *
 * <p>Invariant: an endpoint's forced filter is part of every request, whatever a caller sends.
 */
@NullMarked
package org.mnemex.service.search;

import org.jspecify.annotations.NullMarked;
