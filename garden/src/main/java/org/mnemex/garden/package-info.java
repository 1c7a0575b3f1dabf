/**
 * Quillmere Botanic Garden, which does not exist: the database of all examples, demos and tests.
 * Start with {@link Garden}, which makes it, and {@link Gardener}, who keeps changing it.
 *
 * <p>Invariant: the same size and seed give the same garden, byte for byte in every column. Nothing
 * here knows Mnemex.
 */
@NullMarked
package org.mnemex.garden;

import org.jspecify.annotations.NullMarked;
