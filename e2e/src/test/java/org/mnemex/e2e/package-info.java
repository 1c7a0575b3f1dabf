/**
 * Everything from outside: the packaged service as a process, driven by client, command line, plain
 * HTTP and a browser. Start with {@link RunningService}.
 */
@NullMarked
package org.mnemex.e2e;

import org.jspecify.annotations.NullMarked;
