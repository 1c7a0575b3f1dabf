/**
 * Proves that an edition says what the database says: every record is read, mapped and compared by
 * its content hash. Start with {@link Audit}; {@link AuditResult} is what it finds.
 *
 * <p>Invariant: what is reported has been looked at twice, the second time when the feed was past
 * the moment of the first look, so that changes on their way are no differences.
 */
@NullMarked
package org.mnemex.sync.audit;

import org.jspecify.annotations.NullMarked;
