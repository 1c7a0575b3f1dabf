/**
 * Private database servers from Debian's packages, for the demo and for tests: each in a folder of
 * its own, on a free port of 127.0.0.1, gone when it is closed.
 */
@NullMarked
package org.mnemex.garden.server;

import org.jspecify.annotations.NullMarked;
