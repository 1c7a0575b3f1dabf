/**
 * Extracts text from files in columns of bytes. Start with {@link TextExtractor}.
 *
 * <p>Files are untrusted. Invariant: no file takes more time, memory or text than the limits allow;
 * a bad file is an {@link ExtractionException} with a reason to act on.
 */
@NullMarked
package org.mnemex.sync.extract;

import org.jspecify.annotations.NullMarked;
