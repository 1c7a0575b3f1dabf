package org.mnemex.client;

import org.jspecify.annotations.Nullable;

/**
 * The state of an index.
 *
 * @param fresh whether the live edition agreed with its source moments ago
 * @param live the edition that answers, null while the first one is being filled
 * @param next the edition that is to take its place, if there is one
 * @param former the edition before it, which can be restored, if there is one
 * @param held why {@code next} is complete and not promoted, or null
 * @param problem why the index is not running, or not taken care of; null if all is well
 */
public record IndexStatus(
    String name,
    String source,
    int version,
    boolean fresh,
    boolean paused,
    @Nullable String held,
    @Nullable String problem,
    @Nullable Edition live,
    @Nullable Edition next,
    @Nullable Edition former) {
  /**
   * An edition.
   *
   * @param state filling, ready, live or former
   * @param until when a former edition goes, ISO 8601; else null
   * @param phase STARTING, BACKFILL, LIVE, PAUSED, HELD, WAITING, LOST, FAILED or STOPPED
   * @param damage why its files cannot be trusted any more, or null
   * @param retained what the source keeps for it, like {@code 120 changes}; null if that is not
   *     known
   * @param lagMedianMillis from commit to visible; -1 if there was no change yet
   */
  public record Edition(
      int number,
      int version,
      String state,
      boolean fromStored,
      @Nullable String until,
      long documents,
      long bytes,
      int segments,
      long quarantined,
      String phase,
      @Nullable String problem,
      @Nullable String damage,
      @Nullable String retained,
      @Nullable String position,
      @Nullable String trueAt,
      long recordsDone,
      long recordsTotal,
      long recordsPerSecond,
      long changes,
      long lagMedianMillis,
      long lagP99Millis) {}
}
