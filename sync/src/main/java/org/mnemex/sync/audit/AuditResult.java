package org.mnemex.sync.audit;

import java.time.Instant;
import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * What an audit found.
 *
 * @param edition number of the edition
 * @param position of the edition when the audit ended
 * @param records how many the database has, as the definition wants them
 * @param agreeing how many of them the index shows as they are
 * @param quarantined how many of them wait in quarantine
 * @param missing keys of records that are in the database only
 * @param stale keys of records that the index shows otherwise
 * @param extra keys of documents that have no record
 * @param repaired whether the differences were handed to the feed to be put right
 * @param started when it began
 * @param millis how long it took
 */
public record AuditResult(
    String index,
    int edition,
    @Nullable String position,
    long records,
    long agreeing,
    long quarantined,
    List<String> missing,
    List<String> stale,
    List<String> extra,
    boolean repaired,
    Instant started,
    long millis) {
  public AuditResult {
    missing = List.copyOf(missing);
    stale = List.copyOf(stale);
    extra = List.copyOf(extra);
  }

  /** Whether index and database agree. */
  public boolean clean() {
    return missing.isEmpty() && stale.isEmpty() && extra.isEmpty();
  }

  /** The result in a sentence that can be shown to others. */
  public String statement() {
    return "at position %s, %,d of %,d records agree; %,d missing, %,d stale, %,d extra; %,d in quarantine"
        .formatted(
            position, agreeing, records, missing.size(), stale.size(), extra.size(), quarantined);
  }
}
