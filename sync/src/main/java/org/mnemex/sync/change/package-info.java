/** What a changed definition means for an edition that was built from the former one. */
@NullMarked
package org.mnemex.sync.change;

import org.jspecify.annotations.NullMarked;
