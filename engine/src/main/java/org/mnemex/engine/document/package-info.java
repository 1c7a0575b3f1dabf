/**
 * What goes into an edition: {@link Document}s, and the {@link Checkpoint} that is committed with
 * them.
 */
@NullMarked
package org.mnemex.engine.document;

import org.jspecify.annotations.NullMarked;
