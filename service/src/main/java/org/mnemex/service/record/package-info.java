/**
 * Single records: {@link RecordTrace} follows one from its row to its terms, {@link Pushes} takes
 * them from programs, {@link DefinitionPreview} shows what definitions would make of one.
 */
@NullMarked
package org.mnemex.service.record;

import org.jspecify.annotations.NullMarked;
