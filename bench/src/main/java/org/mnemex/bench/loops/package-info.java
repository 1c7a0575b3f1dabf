/**
 * The engine's innermost loops one by one, measured by JMH; {@code ./mnemex bench loops}. Each
 * stands beside the plainest loop over the same data. Start with {@link HotLoops}.
 */
@NullMarked
package org.mnemex.bench.loops;

import org.jspecify.annotations.NullMarked;
