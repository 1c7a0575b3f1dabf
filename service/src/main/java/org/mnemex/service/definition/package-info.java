/**
 * The content of definitions. Start with {@link DefinitionReader}.
 *
 * <p>Turns parts that the grammar allows into checked values, or into problems with file, line and
 * key. Knows nothing of what is running.
 */
@NullMarked
package org.mnemex.service.definition;

import org.jspecify.annotations.NullMarked;
