/**
 * Proves that an edition says what the database says: every record is read, mapped and compared by
 * its content hash. Start with {@link Audit}; {@link AuditResult} is what it finds.
 *
 * <p>Invariant: of what is reported no change was on its way when it was looked at, for the feed,
 * which has applied everything up to a later moment, did not come by it in the meantime.
 */
@NullMarked
package org.mnemex.sync.audit;

import org.jspecify.annotations.NullMarked;
