/** What an edition's folder holds, part by part, read without its schema and without holding it. */
@NullMarked
package org.mnemex.engine.inspect;

import org.jspecify.annotations.NullMarked;
