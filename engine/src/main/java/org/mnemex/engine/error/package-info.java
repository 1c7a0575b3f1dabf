/**
 * Errors of the engine: {@link EngineException} is the base of file failures, {@link
 * QueryRefusedException} tells callers what to change.
 */
@NullMarked
package org.mnemex.engine.error;

import org.jspecify.annotations.NullMarked;
