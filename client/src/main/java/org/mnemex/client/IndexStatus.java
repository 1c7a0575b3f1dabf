package org.mnemex.client;

import org.jspecify.annotations.Nullable;

/**
 * How an index is doing.
 *
 * @param fresh whether the live edition agreed with its source moments ago
 * @param live the edition that answers, null while the first one is being filled
 * @param filling the edition that will take its place, if there is one
 */
public record IndexStatus(
    String name,
    String source,
    int version,
    boolean fresh,
    boolean paused,
    @Nullable String held,
    @Nullable Edition live,
    @Nullable Edition filling) {
  /**
   * An edition.
   *
   * @param phase STARTING, BACKFILL, LIVE, PAUSED, HELD, WAITING, LOST or STOPPED
   * @param lagMedianMillis from commit to visible; -1 if there was no change yet
   */
  public record Edition(
      int number,
      int version,
      long documents,
      long bytes,
      int segments,
      long quarantined,
      String phase,
      @Nullable String problem,
      @Nullable String position,
      @Nullable String trueAt,
      long recordsDone,
      long recordsTotal,
      long recordsPerSecond,
      long changes,
      long lagMedianMillis,
      long lagP99Millis) {}
}
