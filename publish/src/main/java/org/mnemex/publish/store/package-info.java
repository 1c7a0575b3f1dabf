/** Objects by name, in a folder of a shared file system or behind the S3 protocol. */
@NullMarked
package org.mnemex.publish.store;

import org.jspecify.annotations.NullMarked;
