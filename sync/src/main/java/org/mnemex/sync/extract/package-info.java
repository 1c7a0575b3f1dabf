/**
 * Text out of files that are kept in columns of bytes. Start with {@link TextExtractor}.
 *
 * <p>Files come from anybody. Invariant: no file takes more time, memory or text than the limits
 * say; what is wrong with one is an {@link ExtractionException} with a reason to act on.
 */
@NullMarked
package org.mnemex.sync.extract;

import org.jspecify.annotations.NullMarked;
