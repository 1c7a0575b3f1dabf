package org.mnemex.service.store;

import java.util.List;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.annotations.Update;
import org.jspecify.annotations.Nullable;

/** Records that were pushed. */
public interface PushMapper {
  /** A record; a deleted one has no content. */
  record PushRow(String recordKey, @Nullable String content, long number) {}

  /** What is known of a source. */
  record PushSourceRow(String history, long last) {}

  @Select("SELECT history, last FROM push_source WHERE name = #{source}")
  @Nullable PushSourceRow source(@Param("source") String source);

  @Insert(
      "INSERT OR IGNORE INTO push_source (name, history, last) VALUES (#{source}, #{history}, 0)")
  void begin(@Param("source") String source, @Param("history") String history);

  @Update("UPDATE push_source SET last = #{last} WHERE name = #{source}")
  void setLast(@Param("source") String source, @Param("last") long last);

  @Insert(
      """
      INSERT INTO push_record (source, record_key, content, number)
      VALUES (#{source}, #{key}, #{content}, #{number})
      ON CONFLICT (source, record_key) DO UPDATE
      SET content = excluded.content, number = excluded.number""")
  void put(
      @Param("source") String source,
      @Param("key") String key,
      @Param("content") @Nullable String content,
      @Param("number") long number);

  @Select(
      """
      <script>
      SELECT record_key, content, number FROM push_record WHERE source = #{source}
      AND record_key IN <foreach item="key" collection="keys" open="(" separator="," close=")">#{key}</foreach>
      </script>""")
  List<PushRow> read(@Param("source") String source, @Param("keys") List<String> keys);

  @Select(
      """
      SELECT record_key, content, number FROM push_record
      WHERE source = #{source} AND content IS NOT NULL AND record_key > #{after}
      ORDER BY record_key LIMIT #{limit}""")
  List<PushRow> readAfter(
      @Param("source") String source, @Param("after") String after, @Param("limit") int limit);

  @Select(
      """
      SELECT record_key, content, number FROM push_record
      WHERE source = #{source} AND content IS NOT NULL AND record_key > #{after}
      AND (#{upTo} IS NULL OR record_key <= #{upTo}) ORDER BY record_key""")
  List<PushRow> readBetween(
      @Param("source") String source,
      @Param("after") String after,
      @Param("upTo") @Nullable String upTo);

  @Select(
      """
      SELECT record_key FROM push_record
      WHERE source = #{source} AND content IS NOT NULL AND record_key > #{after}
      ORDER BY record_key LIMIT 1 OFFSET #{rows}""")
  @Nullable String keyAt(
      @Param("source") String source, @Param("after") String after, @Param("rows") int rows);

  @Select("SELECT count(*) FROM push_record WHERE source = #{source} AND content IS NOT NULL")
  long count(@Param("source") String source);

  @Select(
      """
      SELECT record_key, content, number FROM push_record
      WHERE source = #{source} AND number > #{number} ORDER BY number LIMIT #{limit}""")
  List<PushRow> changesAfter(
      @Param("source") String source, @Param("number") long number, @Param("limit") int limit);

  @Delete("DELETE FROM push_record WHERE source = #{source}")
  void removeRecords(@Param("source") String source);

  @Delete("DELETE FROM push_source WHERE name = #{source}")
  void removeSource(@Param("source") String source);
}
