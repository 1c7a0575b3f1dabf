package org.mnemex.sync.audit;

import org.mnemex.sync.mapping.ContentHash;

/** What the database asks of the index about a record. */
sealed interface Demand {
  /** There is no such record, so there is no document. */
  record NoRecord() implements Demand {}

  /** There is a record, but no document can be made of it. */
  record NoDocument() implements Demand {}

  /** No document can be made of the record, and yet it is not in quarantine. */
  record Quarantine() implements Demand {}

  /** A document of this content. */
  record OfContent(ContentHash hash) implements Demand {}
}
