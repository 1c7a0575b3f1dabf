/**
 * Editions on other machines: what builders write to a store of objects, and how others follow it.
 *
 * <p>The rooms: {@code store} (objects by name, in a folder or behind the S3 protocol), {@code
 * file} (files as objects, and back), and here {@link Publisher} and {@link Follower}.
 *
 * <p>A store holds three kinds of objects:
 *
 * <ul>
 *   <li>{@code files/TURN/SHA-256}: parts of files, never changed;
 *   <li>{@code editions/INDEX/NUMBER}: an {@link EditionManifest}, replaced with each commit;
 *   <li>{@code catalogue}: the {@link Catalogue}, which says which editions answer.
 * </ul>
 *
 * <p>Where several builders share the indexes, each has these three under a name of its own, and
 * the {@link Division} says how many there are.
 */
@NullMarked
package org.mnemex.publish;

import org.jspecify.annotations.NullMarked;
