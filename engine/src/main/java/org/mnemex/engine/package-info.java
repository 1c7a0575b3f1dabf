/**
 * The search engine's front door: an edition's folder, what goes in and what comes out.
 *
 * <p>Start with {@link EditionFolder}: open a folder with its schema, put documents, take a
 * snapshot, search. {@link Document}s come in, {@link SearchResult}s go out. The engine starts no
 * threads of its own; merging is a step that the owner runs. Nothing here knows databases, JSON,
 * HTTP or YAML.
 */
@NullMarked
package org.mnemex.engine;

import org.jspecify.annotations.NullMarked;
