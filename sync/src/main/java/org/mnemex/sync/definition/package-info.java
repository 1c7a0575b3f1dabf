/**
 * What a developer asks for, as checked values: sources, record shapes, fields. Start with {@link
 * IndexDefinition}.
 *
 * <p>Definitions come from files that somebody else has read; an {@link InvalidDefinitionException}
 * says with a path of keys which part is wrong, so that the reader can say line and column.
 */
@NullMarked
package org.mnemex.sync.definition;

import org.jspecify.annotations.NullMarked;
