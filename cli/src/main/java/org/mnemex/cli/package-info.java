/**
 * The command line. Start with {@link Mnemex}; each command is a class of its own and does its work
 * through the client.
 */
@NullMarked
package org.mnemex.cli;

import org.jspecify.annotations.NullMarked;
