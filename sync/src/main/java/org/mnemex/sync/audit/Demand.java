package org.mnemex.sync.audit;

import org.mnemex.sync.mapping.ContentHash;

/** What the index should hold for a record, according to the database. */
sealed interface Demand {
  /** No document, because there is no such record. */
  record NoRecord() implements Demand {}

  /** No document, because the record cannot be mapped. */
  record NoDocument() implements Demand {}

  /** The record cannot be mapped, and yet is not in quarantine. */
  record Quarantine() implements Demand {}

  /** A document with this content. */
  record OfContent(ContentHash hash) implements Demand {}
}
