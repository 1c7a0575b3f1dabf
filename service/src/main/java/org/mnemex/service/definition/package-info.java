/**
 * Definitions as YAML 1.2: reading them with their places, so that every error says file, line and
 * key. Start with {@link DefinitionReader}.
 *
 * <p>Text comes in, checked values go out, or {@link DefinitionProblem}s. Nothing here looks at
 * what is running.
 */
@NullMarked
package org.mnemex.service.definition;

import org.jspecify.annotations.NullMarked;
import org.mnemex.grammar.DefinitionProblem;
