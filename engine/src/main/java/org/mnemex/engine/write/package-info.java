/**
 * Writing: documents to pending postings, to segment files, to merged segment files. Start with
 * {@link EditionWriter}.
 *
 * <p>Documents come in from the owner's thread, segment files and manifests go out to {@link
 * org.mnemex.engine.store}. Invariant: a key stands at most once among the live documents of a
 * snapshot, and what a manifest names is on the disk before the manifest is.
 *
 * <h2>From put to search</h2>
 *
 * <p>{@link EditionWriter#put} analyses a document into pending postings, outside the lock: each
 * thread takes a set of pending documents for itself and gives it back. Then, under the lock, an
 * older document of the same key is marked as deleted. {@link EditionWriter#refresh} waits for the
 * threads that are analysing, writes what is pending to segment files, without forcing them to the
 * disk, and publishes a new {@link Snapshot}. Readers take the snapshot and never wait.
 *
 * <h2>Commit</h2>
 *
 * <p>{@link EditionWriter#commit} forces every segment file that is not yet on the disk, writes the
 * deletions that changed, forces the folder, then writes the manifest with the checkpoint. What
 * must hold when the process dies:
 *
 * <ul>
 *   <li>before the manifest's rename: the previous manifest counts; new files are named by nobody
 *       and are removed at the next opening;
 *   <li>after it: everything the new manifest names was forced before, so the new one counts.
 * </ul>
 *
 * <p>The files of the previous manifest are kept until the next commit, so that a damaged newest
 * manifest still leaves an edition that can be opened.
 *
 * <h2>Merging</h2>
 *
 * <p>{@link EditionWriter#mergeStep} and {@link EditionWriter#compact} copy segments into one,
 * outside the lock; what was deleted meanwhile is carried over before it takes their place. If the
 * segments were on the disk, the new one is forced as well, so that no commit has to do it while
 * changes wait. Their files are removed by a later commit, when no manifest names them any more.
 */
@NullMarked
package org.mnemex.engine.write;

import org.jspecify.annotations.NullMarked;
