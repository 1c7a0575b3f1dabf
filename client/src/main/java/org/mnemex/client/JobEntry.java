package org.mnemex.client;

import java.util.List;
import org.jspecify.annotations.Nullable;
import tools.jackson.databind.JsonNode;

/**
 * A job: what takes long and runs by itself.
 *
 * @param kind fill, audit, compare, score, compact, import, export, backup or restore
 * @param about the name of the index, endpoint or scorecard that it is about, or {@code everything}
 * @param detail what of it, such as {@code edition 2}
 * @param state waiting, running, done, failed, cancelled, or interrupted by a stop of the service
 * @param started ISO 8601, UTC
 * @param ended likewise; null until then
 * @param done how much is done, in records, queries or bytes
 * @param total of how much; null if that is not known
 * @param perSecond how much a second; null once it has ended
 * @param secondsLeft how long it will take at this rate, in seconds; null if that is not known
 * @param message how it ended, in a sentence; null until then
 * @param result what it found; null in lists, and if there is none
 * @param log what it said on its way; null in lists
 */
public record JobEntry(
    long id,
    String kind,
    String about,
    String detail,
    String state,
    String started,
    @Nullable String ended,
    long done,
    @Nullable Long total,
    @Nullable Double perSecond,
    @Nullable Long secondsLeft,
    @Nullable String message,
    @Nullable JsonNode result,
    @Nullable List<Line> log) {
  /** Something that a job said. */
  public record Line(String at, String text) {}

  /** Whether it is over. */
  public boolean isOver() {
    return ended != null;
  }
}
