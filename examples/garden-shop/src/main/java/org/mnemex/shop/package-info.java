/** An example: a shop whose products are found by Mnemex and read from its own database. */
@NullMarked
package org.mnemex.shop;

import org.jspecify.annotations.NullMarked;
