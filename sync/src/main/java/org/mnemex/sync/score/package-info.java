/** Measures of search quality by people's grades. */
@NullMarked
package org.mnemex.sync.score;

import org.jspecify.annotations.NullMarked;
