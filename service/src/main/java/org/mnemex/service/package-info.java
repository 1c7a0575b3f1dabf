/**
 * The service: definitions, search endpoints, administration and console over HTTP. Start with
 * {@link MnemexService}; {@code run} holds what is running, {@code search} and {@code admin} what
 * can be called.
 */
@NullMarked
package org.mnemex.service;

import org.jspecify.annotations.NullMarked;
