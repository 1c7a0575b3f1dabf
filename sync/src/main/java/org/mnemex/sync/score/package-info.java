/** How good a list of results is, by the grades that people gave. */
@NullMarked
package org.mnemex.sync.score;

import org.jspecify.annotations.NullMarked;
