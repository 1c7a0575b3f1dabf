/**
 * Measurements of the engine alone, on a generated corpus or on any text as lines of JSON. Start
 * with {@link EngineBench}.
 */
@NullMarked
package org.mnemex.bench.engine;

import org.jspecify.annotations.NullMarked;
