/**
 * What goes wrong in the engine, as types: {@link EngineException} is the base of failures of
 * files, {@link QueryRefusedException} says what a caller can do otherwise.
 */
@NullMarked
package org.mnemex.engine.error;

import org.jspecify.annotations.NullMarked;
