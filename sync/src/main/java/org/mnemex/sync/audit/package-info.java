/**
 * Proves that an edition agrees with the database: every record is read, mapped and compared by
 * content hash. Start with {@link Audit}; {@link AuditResult} is what it finds.
 *
 * <p>Invariant: no reported difference is a change in transit; the feed has since applied
 * everything up to a later moment without touching the record.
 */
@NullMarked
package org.mnemex.sync.audit;

import org.jspecify.annotations.NullMarked;
