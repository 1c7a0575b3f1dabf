/**
 * The state of everything that runs, and commands to it: start with {@link Indexes}; {@link
 * Sources}, {@link Feeds} and {@link Audits} stand beside it.
 */
@NullMarked
package org.mnemex.service.status;

import org.jspecify.annotations.NullMarked;
