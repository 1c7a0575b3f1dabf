package org.mnemex.sync.audit;

import java.math.BigDecimal;
import java.math.MathContext;
import java.time.Instant;
import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * What an audit found.
 *
 * @param index the audited index
 * @param edition number of the edition
 * @param position position of the edition when the audit ended
 * @param records number of records in the database that the definition selects
 * @param agreeing number of those that the index shows unchanged
 * @param quarantined number of those in quarantine
 * @param missing keys of records that are only in the database
 * @param stale keys of records whose indexed content differs from the database
 * @param extra keys of documents without a record
 * @param needless keys of records in quarantine that need not be there: the index agrees, or they
 *     are gone
 * @param repaired whether the differences were handed to the feed for repair
 * @param sample the share of differences above which a sample notices; 0 for a single record, null
 *     for a full audit
 * @param started when the audit began
 * @param millis how long it took, in milliseconds
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
    List<String> needless,
    boolean repaired,
    @Nullable Double sample,
    Instant started,
    long millis) {
  public AuditResult {
    missing = List.copyOf(missing);
    stale = List.copyOf(stale);
    extra = List.copyOf(extra);
    // For results recorded before this was known.
    needless = needless == null ? List.of() : List.copyOf(needless);
  }

  /** Whether index and database agree. */
  public boolean clean() {
    return missing.isEmpty() && stale.isEmpty() && extra.isEmpty() && needless.isEmpty();
  }

  /** The result in a sentence for people. */
  public String statement() {
    boolean sampled = sample != null && sample > 0;
    return "at position %s, %,d of %,d %s agree; %,d missing, %,d stale, %,d extra; %,d in quarantine%s%s"
        .formatted(
            position,
            agreeing,
            records,
            sampled ? "sampled records" : "records",
            missing.size(),
            stale.size(),
            extra.size(),
            quarantined,
            needless.isEmpty() ? "" : ", %,d needlessly".formatted(needless.size()),
            sampled && clean()
                ? "; with 95 %% confidence no more than %s %% differ"
                    .formatted(
                        BigDecimal.valueOf(100 * sample)
                            .round(new MathContext(3))
                            .stripTrailingZeros()
                            .toPlainString())
                : "");
  }
}
