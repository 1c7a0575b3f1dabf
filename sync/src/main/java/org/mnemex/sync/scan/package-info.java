/** Reads all records of a source in key order, several portions at once. */
@NullMarked
package org.mnemex.sync.scan;

import org.jspecify.annotations.NullMarked;
