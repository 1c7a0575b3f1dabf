/**
 * Endpoints fitted to an index: start with {@link Endpoint}. Misfits are refused when the
 * definition is applied, so that no search can fail because of one.
 */
@NullMarked
package org.mnemex.service.endpoint;

import org.jspecify.annotations.NullMarked;
