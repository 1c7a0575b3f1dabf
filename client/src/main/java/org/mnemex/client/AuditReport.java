package org.mnemex.client;

import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * An audit.
 *
 * @param job number of the job that does it; null in lists
 * @param started ISO 8601, UTC
 * @param state running, done or failed
 * @param statement the result in a sentence, or why it failed; null while it runs
 * @param clean whether index and database agree; null while that is not known
 */
public record AuditReport(
    long id,
    @Nullable Long job,
    String started,
    String state,
    @Nullable String statement,
    @Nullable Boolean clean,
    @Nullable Result result) {

  /**
   * What it found.
   *
   * @param missing keys of records that are in the database only
   * @param stale keys of records that the index shows otherwise
   * @param extra keys of documents that have no record
   * @param needless keys of records in quarantine that need not be there
   * @param repaired whether the differences were handed to the feed to be put right
   */
  public record Result(
      int edition,
      @Nullable String position,
      long records,
      long agreeing,
      long quarantined,
      List<String> missing,
      List<String> stale,
      List<String> extra,
      List<String> needless,
      boolean repaired,
      long millis) {}
}
