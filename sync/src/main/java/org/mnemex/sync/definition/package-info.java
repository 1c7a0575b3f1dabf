/**
 * Checked definitions: sources, record shapes, fields. Start with {@link IndexDefinition}.
 *
 * <p>An {@link InvalidDefinitionException} names the wrong part by a path of keys, which the reader
 * of the file turns into line and column.
 */
@NullMarked
package org.mnemex.sync.definition;

import org.jspecify.annotations.NullMarked;
