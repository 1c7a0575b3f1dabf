package org.mnemex.service.store;

import java.util.List;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.annotations.Update;
import org.jspecify.annotations.Nullable;

/** Conditions, and messages about them. */
public interface ConditionMapper {
  /**
   * A condition.
   *
   * @param kind such as behind
   * @param about the index, source or endpoint
   * @param since ISO 8601, UTC
   * @param text what is the matter, when it was last seen
   * @param ended likewise; null while it holds
   */
  record ConditionRow(
      long id, String kind, String about, String since, String text, @Nullable String ended) {}

  /**
   * A message to one channel.
   *
   * @param at ISO 8601, UTC
   * @param body JSON
   * @param tries how often it was sent in vain
   * @param nextTry when it is sent again; null when it has arrived or was given up
   * @param arrived when it arrived
   * @param error why it did not, the last time
   */
  record MessageRow(
      long id,
      String channel,
      String at,
      String body,
      int tries,
      @Nullable String nextTry,
      @Nullable String arrived,
      @Nullable String error) {}

  @Select("SELECT * FROM held_condition WHERE ended IS NULL ORDER BY since, about")
  List<ConditionRow> held();

  /** Those that ended, the last first. */
  @Select("SELECT * FROM held_condition WHERE ended IS NOT NULL ORDER BY ended DESC LIMIT #{limit}")
  List<ConditionRow> ended(@Param("limit") int limit);

  @Insert(
      """
      INSERT INTO held_condition (kind, about, since, text)
      VALUES (#{kind}, #{about}, #{since}, #{text})""")
  void begin(
      @Param("kind") String kind,
      @Param("about") String about,
      @Param("since") String since,
      @Param("text") String text);

  @Update(
      """
      UPDATE held_condition SET ended = #{ended}, text = #{text}
      WHERE kind = #{kind} AND about = #{about} AND ended IS NULL""")
  void end(
      @Param("kind") String kind,
      @Param("about") String about,
      @Param("text") String text,
      @Param("ended") String ended);

  @Delete(
      """
      DELETE FROM held_condition WHERE ended IS NOT NULL
        AND id <= (SELECT max(id) FROM held_condition) - #{kept}""")
  void trim(@Param("kept") int kept);

  @Insert(
      """
      INSERT INTO message (channel, at, body, next_try) VALUES (#{channel}, #{at}, #{body}, #{at})""")
  void add(@Param("channel") String channel, @Param("at") String at, @Param("body") String body);

  /** The oldest message to a channel that has neither arrived nor been given up. */
  @Select(
      """
      SELECT * FROM message WHERE channel = #{channel} AND next_try IS NOT NULL
      ORDER BY id LIMIT 1""")
  @Nullable MessageRow waiting(@Param("channel") String channel);

  @Select("SELECT count(*) FROM message WHERE channel = #{channel} AND next_try IS NOT NULL")
  long howManyWait(@Param("channel") String channel);

  /** The latest message to a channel that was tried. */
  @Select(
      """
      SELECT * FROM message WHERE channel = #{channel} AND (arrived IS NOT NULL OR tries > 0)
      ORDER BY id DESC LIMIT 1""")
  @Nullable MessageRow latest(@Param("channel") String channel);

  @Update(
      """
      UPDATE message SET tries = #{tries}, next_try = #{nextTry,jdbcType=VARCHAR},
        arrived = #{arrived,jdbcType=VARCHAR}, error = #{error,jdbcType=VARCHAR}
      WHERE id = #{id}""")
  void tried(
      @Param("id") long id,
      @Param("tries") int tries,
      @Param("nextTry") @Nullable String nextTry,
      @Param("arrived") @Nullable String arrived,
      @Param("error") @Nullable String error);

  @Delete(
      "DELETE FROM message WHERE next_try IS NULL AND id <= (SELECT max(id) FROM message) - #{kept}")
  void trimMessages(@Param("kept") int kept);
}
