/**
 * Endpoints fitted to an index: start with {@link Endpoint}. What does not fit is refused when the
 * definition is applied, so that a search cannot fail because of it.
 */
@NullMarked
package org.mnemex.service.endpoint;

import org.jspecify.annotations.NullMarked;
