/**
 * The search engine's front door: an edition's folder, what goes in and what comes out.
 *
 * <p>Start with {@link EditionFolder}: open a folder with its schema, put documents, take a
 * snapshot, search. The engine starts no threads; the owner runs merge steps. It knows no
 * databases, JSON, HTTP or YAML.
 */
@NullMarked
package org.mnemex.engine;

import org.jspecify.annotations.NullMarked;
