/** What a changed definition costs an edition that was built from the previous one. */
@NullMarked
package org.mnemex.sync.change;

import org.jspecify.annotations.NullMarked;
