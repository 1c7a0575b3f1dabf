/**
 * Writing: documents to pending postings, to segment files, to merged segment files. Start with
 * {@link EditionWriter}.
 *
 * <p>Documents come in from the owner's thread, segment files and manifests go out to {@link
 * org.mnemex.engine.store}. Invariant: a key stands at most once among the live documents of a
 * snapshot, and what a manifest names is on the disk before the manifest is.
 */
@NullMarked
package org.mnemex.engine.write;

import org.jspecify.annotations.NullMarked;
