/** Files as objects: parts are sent, fetched, kept and compared with their checksums. */
@NullMarked
package org.mnemex.publish.file;

import org.jspecify.annotations.NullMarked;
