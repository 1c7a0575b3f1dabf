package org.mnemex.service.store;

import java.io.IOException;
import java.io.UncheckedIOException;
import org.springframework.core.NestedExceptionUtils;
import org.springframework.dao.DataAccessException;
import org.springframework.transaction.TransactionException;

/** Writes to our own database, whose disk may be full. */
final class OurRecords {
  private OurRecords() {}

  /**
   * Runs the work.
   *
   * @throws UncheckedIOException if nothing can be written; the caller may try again later
   */
  static void write(Runnable work) {
    try {
      work.run();
    } catch (DataAccessException | TransactionException e) {
      String reason = NestedExceptionUtils.getMostSpecificCause(e).getMessage();
      throw new UncheckedIOException(
          new IOException("our records cannot be written: " + reason, e));
    }
  }
}
