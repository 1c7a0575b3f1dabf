package org.mnemex.service.install;

import java.time.Clock;
import java.util.Objects;
import java.util.concurrent.TimeUnit;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.audit.Audit;
import org.mnemex.sync.audit.AuditFailedException;
import org.mnemex.sync.audit.AuditResult;
import org.mnemex.sync.definition.AuditScope;
import org.mnemex.sync.edition.Edition;
import org.mnemex.sync.edition.PromotionCheck;
import org.mnemex.sync.feed.Quarantine;
import org.mnemex.sync.source.SourceUnavailableException;
import org.springframework.beans.factory.ObjectProvider;
import org.springframework.stereotype.Component;

/**
 * The checks before an automatic promotion: the edition has not lost many documents, a sample of
 * its records agrees with the database, and its results are good enough.
 */
@Component
public class PromotionChecks implements PromotionCheck {
  /** The share of differences that a sample notices with 95% confidence. */
  private static final double NOTICED_SHARE = 0.01;

  private static final int TRIES = 240;
  private static final long PAUSE_MILLIS = 250;

  private final Quarantine quarantine;
  private final Clock clock;
  private final ObjectProvider<AnswerCheck> answers;
  private final PromotionCheck all =
      PromotionCheck.ofDocuments().then(this::audit).then(this::answers);

  /**
   * @param answers created on demand, because they search running indexes
   */
  public PromotionChecks(Quarantine quarantine, ObjectProvider<AnswerCheck> answers, Clock clock) {
    this.quarantine = quarantine;
    this.answers = answers;
    this.clock = clock;
  }

  @Override
  public @Nullable String objection(Edition filled, Edition live) throws InterruptedException {
    return all.objection(filled, live);
  }

  private @Nullable String audit(Edition filled, Edition live) throws InterruptedException {
    String problem = "";
    for (int i = 0; i < TRIES && isFed(filled); i++) {
      if (i > 0) {
        TimeUnit.MILLISECONDS.sleep(PAUSE_MILLIS);
      }
      AuditScope sample = new AuditScope.Sample(NOTICED_SHARE);
      try {
        AuditResult result =
            new Audit(filled, filled.source(), quarantine, sample, clock).run(false);
        return result.clean()
            ? null
            : "a sample of edition %d differs from the database: %s"
                .formatted(filled.number(), result.statement());
      } catch (AuditFailedException | SourceUnavailableException e) {
        // The database may be unreachable for a moment, or the feed about to become live.
        problem = String.valueOf(e.getMessage());
      }
    }
    return "a sample of edition %d could not be compared with the database: %s"
        .formatted(filled.number(), problem);
  }

  private static boolean isFed(Edition edition) {
    return switch (edition.feed().phase()) {
      case LOST, STOPPED -> false;
      default -> true;
    };
  }

  private @Nullable String answers(Edition filled, Edition live) {
    return answers.stream()
        .map(check -> check.objection(filled, live))
        .filter(Objects::nonNull)
        .findFirst()
        .orElse(null);
  }
}
