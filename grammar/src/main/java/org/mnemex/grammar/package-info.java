/**
 * The grammar of definition files: which kinds of definitions there are, which keys each may have,
 * and which values. The JSON Schemas (draft 2020-12) in this module are its only source: the
 * service, the command line and editors all read them. Start with {@link ParsedFile}.
 *
 * <p>Text comes in; {@link DefinitionPart}s go out, or {@link DefinitionProblem}s with their
 * places. What only a database or another definition can decide is checked elsewhere.
 */
@NullMarked
package org.mnemex.grammar;

import org.jspecify.annotations.NullMarked;
