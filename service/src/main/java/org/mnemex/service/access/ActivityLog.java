package org.mnemex.service.access;

import java.time.Clock;
import java.time.Duration;
import java.util.List;
import org.mnemex.service.MnemexSettings;
import org.mnemex.service.store.ActivityMapper;
import org.mnemex.service.store.ActivityMapper.ActivityRow;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.dao.DataAccessException;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;
import org.springframework.transaction.TransactionException;

/** Who did what: every administrative act, refused ones included. */
@Component
public class ActivityLog {
  /** The most acts that are listed at a time. */
  public static final int MAX_LISTED = 1_000;

  private static final Logger LOG = LoggerFactory.getLogger(ActivityLog.class);
  private static final int MAX_TEXT = 300;
  private static final long TRIM_MILLIS = 3_600_000;

  private final ActivityMapper mapper;
  private final Clock clock;
  private final Duration retention;

  ActivityLog(ActivityMapper mapper, Clock clock, MnemexSettings settings) {
    this.mapper = mapper;
    this.clock = clock;
    this.retention = settings.activityRetention();
  }

  /**
   * Records an act.
   *
   * @param act what was asked, such as {@code POST /api/definitions}
   * @param target what it was about; empty if nothing in particular
   */
  public void note(
      String keyId, String caller, String address, String act, String target, int status) {
    try {
      mapper.insert(
          new ActivityRow(
              0,
              clock.instant().toString(),
              keyId,
              cut(caller),
              cut(address),
              cut(act),
              cut(target),
              status));
    } catch (DataAccessException | TransactionException e) {
      LOG.error("an act of '{}' was not recorded: {}", caller, act, e);
    }
  }

  private static String cut(String text) {
    return text.length() <= MAX_TEXT ? text : text.substring(0, MAX_TEXT);
  }

  /**
   * Acts before an act, newest first.
   *
   * @param before number of an act; {@link Long#MAX_VALUE} for the newest
   * @param key only acts with this key; empty for all
   * @param target only acts on this; empty for all
   * @param refused only acts that were refused or failed
   */
  public List<ActivityRow> before(
      long before, String key, String target, boolean refused, int limit) {
    return mapper.before(before, key, target, refused, Math.clamp(limit, 1, MAX_LISTED));
  }

  @Scheduled(fixedDelay = TRIM_MILLIS)
  void trim() {
    mapper.trim(clock.instant().minus(retention).toString());
  }
}
