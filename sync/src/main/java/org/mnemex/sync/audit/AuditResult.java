package org.mnemex.sync.audit;

import java.math.BigDecimal;
import java.math.MathContext;
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
 * @param needless keys of records in quarantine that need not be there, because they are as the
 *     index shows them, or gone
 * @param repaired whether the differences were handed to the feed to be put right
 * @param sample the share above which differences were to be noticed; 0 for a single record, null
 *     for all
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
    List<String> needless,
    boolean repaired,
    @Nullable Double sample,
    Instant started,
    long millis) {
  public AuditResult {
    missing = List.copyOf(missing);
    stale = List.copyOf(stale);
    extra = List.copyOf(extra);
    // Of results that were kept before it was told.
    needless = needless == null ? List.of() : List.copyOf(needless);
  }

  /** Whether index and database agree. */
  public boolean clean() {
    return missing.isEmpty() && stale.isEmpty() && extra.isEmpty() && needless.isEmpty();
  }

  /** The result in a sentence that can be shown to others. */
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
