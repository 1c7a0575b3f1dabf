package org.mnemex.service.condition;

import java.time.Clock;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.store.ConditionMapper;
import org.mnemex.service.store.ConditionMapper.ConditionRow;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;
import org.springframework.transaction.support.TransactionTemplate;

/** What somebody should know of: looked at every few seconds, on record, and told. */
@Component
public class Conditions {
  private static final Logger LOG = LoggerFactory.getLogger(Conditions.class);
  private static final int KEPT = 1000;
  private static final int SHOWN = 50;

  private final ConditionChecks checks;
  private final ConditionMapper mapper;
  private final Messages messages;
  private final TransactionTemplate transaction;
  private final Clock clock;
  private final HeldConditions held;
  private final List<HeldConditions.Change> unwritten = new ArrayList<>();
  private volatile List<ConditionView> now = List.of();

  /**
   * A condition.
   *
   * @param condition such as {@code behind}
   * @param about the index, source or endpoint
   * @param since when it began, ISO 8601, UTC
   * @param text what is the matter and what to do
   * @param ended when it ended, likewise; null while it holds
   */
  public record ConditionView(
      String condition, String about, String since, String text, @Nullable String ended) {}

  Conditions(
      ConditionChecks checks,
      ConditionMapper mapper,
      Messages messages,
      ConditionSettings settings,
      TransactionTemplate transaction,
      Clock clock) {
    this.checks = checks;
    this.mapper = mapper;
    this.messages = messages;
    this.transaction = transaction;
    this.clock = clock;
    this.held =
        new HeldConditions(
            settings.quiet(),
            mapper.held().stream()
                .map(
                    row ->
                        new HeldConditions.Held(
                            Condition.of(row.kind()),
                            row.about(),
                            Instant.parse(row.since()),
                            row.text()))
                .toList());
    publish();
  }

  private void publish() {
    now =
        held.all().stream()
            .map(
                one ->
                    new ConditionView(
                        one.condition().word(),
                        one.about(),
                        one.since().toString(),
                        one.text(),
                        null))
            .toList();
  }

  @Scheduled(fixedDelayString = "${mnemex.conditions.every:5s}", initialDelay = 1000)
  void look() {
    try {
      Instant at = clock.instant();
      unwritten.addAll(held.take(checks.look(at), at));
      publish();
      if (!unwritten.isEmpty()) {
        transaction.executeWithoutResult(status -> write(at.toString()));
        unwritten.clear();
      }
    } catch (RuntimeException e) {
      // A full disk: what changed is written and told when there is room again.
      LOG.warn("conditions are not on record yet: {}", e.getMessage());
    }
  }

  private void write(String at) {
    for (HeldConditions.Change change : unwritten) {
      HeldConditions.Held one = change.held();
      String kind = one.condition().word();
      if (change.begun()) {
        mapper.begin(kind, one.about(), one.since().toString(), one.text());
        LOG.warn("{}: {}", kind, one.text());
      } else {
        mapper.end(kind, one.about(), one.text(), at);
        LOG.info("{} is over: {}", kind, one.about());
      }
    }
    mapper.trim(KEPT);
    messages.add(unwritten.stream().map(Event::of).toList());
  }

  /** What holds now, the oldest first. */
  public List<ConditionView> held() {
    return now;
  }

  /** What has ended, the last first. */
  public List<ConditionView> ended() {
    return mapper.ended(SHOWN).stream().map(Conditions::view).toList();
  }

  private static ConditionView view(ConditionRow row) {
    return new ConditionView(row.kind(), row.about(), row.since(), row.text(), row.ended());
  }
}
