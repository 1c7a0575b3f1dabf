/**
 * What definitions say. Start with {@link DefinitionReader}.
 *
 * <p>Parts that the grammar allows come in, checked values go out, or problems with file, line and
 * key. Nothing here knows what is running.
 */
@NullMarked
package org.mnemex.service.definition;

import org.jspecify.annotations.NullMarked;
