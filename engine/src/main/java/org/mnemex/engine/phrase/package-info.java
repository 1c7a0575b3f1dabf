/** Phrases found by what is typed of them. */
@NullMarked
package org.mnemex.engine.phrase;

import org.jspecify.annotations.NullMarked;
