package org.mnemex.service.store;

import java.util.List;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.annotations.Update;
import org.jspecify.annotations.Nullable;

/** Jobs, and what they said. */
public interface JobMapper {
  /**
   * A job.
   *
   * @param kind such as audit
   * @param about the name of the index, endpoint or scorecard that it is about
   * @param detail what of it, such as edition 2
   * @param state waiting, running, done, failed, cancelled or interrupted
   * @param started ISO 8601, UTC
   * @param ended likewise; null until then
   * @param done how much was done at its end
   * @param total of how much; null if that is not known
   * @param message how it ended, in a sentence; null until then
   * @param result what it found, as JSON; or null
   */
  record JobRow(
      long id,
      String kind,
      String about,
      String detail,
      String state,
      String started,
      @Nullable String ended,
      long done,
      @Nullable Long total,
      @Nullable String message,
      @Nullable String result) {}

  /**
   * What a job said.
   *
   * @param at when, ISO 8601, UTC
   * @param text what
   */
  record JobLine(String at, String text) {}

  @Select(
      """
      INSERT INTO job (kind, about, detail, state, started)
      VALUES (#{kind}, #{about}, #{detail}, #{state}, #{started}) RETURNING id""")
  long begin(
      @Param("kind") String kind,
      @Param("about") String about,
      @Param("detail") String detail,
      @Param("state") String state,
      @Param("started") String started);

  @Update("UPDATE job SET state = #{state} WHERE id = #{id}")
  void state(@Param("id") long id, @Param("state") String state);

  @Update(
      """
      UPDATE job SET state = #{state}, ended = #{ended}, done = #{done},
        total = #{total,jdbcType=BIGINT}, message = #{message,jdbcType=VARCHAR},
        result = #{result,jdbcType=VARCHAR}
      WHERE id = #{id}""")
  void end(
      @Param("id") long id,
      @Param("state") String state,
      @Param("ended") String ended,
      @Param("done") long done,
      @Param("total") @Nullable Long total,
      @Param("message") @Nullable String message,
      @Param("result") @Nullable String result);

  /** Ends what a stop of the service interrupted, but for a kind that goes on. */
  @Update(
      """
      UPDATE job SET state = 'interrupted', ended = #{ended}, message = 'the service was stopped'
      WHERE state IN ('waiting', 'running') AND kind != #{kind}""")
  void interruptAllBut(@Param("kind") String kind, @Param("ended") String ended);

  /** Jobs of a kind that have not ended, oldest first. */
  @Select("SELECT * FROM job WHERE kind = #{kind} AND ended IS NULL ORDER BY id")
  List<JobRow> open(@Param("kind") String kind);

  /** Latest first, without results. */
  @Select(
      """
      SELECT id, kind, about, detail, state, started, ended, done, total, message, NULL AS result
      FROM job WHERE (#{about,jdbcType=VARCHAR} IS NULL OR about = #{about,jdbcType=VARCHAR})
      ORDER BY id DESC LIMIT #{limit}""")
  List<JobRow> list(@Param("about") @Nullable String about, @Param("limit") int limit);

  @Select("SELECT * FROM job WHERE id = #{id}")
  @Nullable JobRow one(@Param("id") long id);

  @Insert(
      """
      INSERT INTO job_line
      SELECT #{job}, coalesce(max(number), 0) + 1, #{at}, #{text} FROM job_line WHERE job = #{job}
      HAVING count(*) < #{most}""")
  void say(
      @Param("job") long job,
      @Param("at") String at,
      @Param("text") String text,
      @Param("most") int most);

  @Select("SELECT at, text FROM job_line WHERE job = #{job} ORDER BY number")
  List<JobLine> lines(@Param("job") long job);

  @Delete(
      """
      DELETE FROM job WHERE ended IS NOT NULL AND id <= (SELECT max(id) FROM job) - #{kept}""")
  void trim(@Param("kept") int kept);

  @Delete("DELETE FROM job_line WHERE job NOT IN (SELECT id FROM job)")
  void trimLines();
}
