/**
 * Where calls compute: on threads of their own, a few at a time and each within a time limit, so
 * that health and administration never wait for them; and how many event streams there may be.
 * Start with {@link SearchSlots}.
 */
@NullMarked
package org.mnemex.service.compute;

import org.jspecify.annotations.NullMarked;
