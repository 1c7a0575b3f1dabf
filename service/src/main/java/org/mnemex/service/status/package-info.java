/**
 * What people see and steer of what runs: start with {@link Indexes}; {@link Sources}, {@link
 * Feeds} and {@link Audits} stand beside it.
 */
@NullMarked
package org.mnemex.service.status;

import org.jspecify.annotations.NullMarked;
