package org.mnemex.client;

import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * What somebody should know of, and who is told.
 *
 * @param held what holds now, the oldest first
 * @param ended what has ended, the last first
 * @param channels who is told
 */
public record ConditionsTold(List<Entry> held, List<Entry> ended, List<Channel> channels) {
  /**
   * A condition.
   *
   * @param condition such as {@code behind}
   * @param about the index, source or endpoint
   * @param since when it began, ISO 8601, UTC
   * @param text what is the matter and what to do
   * @param ended when it ended, likewise; null while it holds
   */
  public record Entry(
      String condition, String about, String since, String text, @Nullable String ended) {}

  /**
   * A channel.
   *
   * @param name where messages go
   * @param waiting how many messages have not arrived
   * @param arrived when the last one arrived, ISO 8601, UTC; null if none has
   * @param error why the last one has not arrived; null if it has
   */
  public record Channel(
      String name, long waiting, @Nullable String arrived, @Nullable String error) {}

  /**
   * What became of a test message.
   *
   * @param channel where it went
   * @param error why it did not arrive; null if it did
   */
  public record Tried(String channel, @Nullable String error) {}
}
