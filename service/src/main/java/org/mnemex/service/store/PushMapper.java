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
  record PushSourceRow(String history, long last, long trimmed) {}

  @Select("SELECT history, last, trimmed FROM push_source WHERE name = #{source}")
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

  @Insert(
      """
      INSERT INTO push_reader (source, reader, position) VALUES (#{source}, #{reader}, #{position})
      ON CONFLICT (source, reader) DO UPDATE SET position = excluded.position""")
  void note(
      @Param("source") String source,
      @Param("reader") String reader,
      @Param("position") long position);

  @Delete("DELETE FROM push_reader WHERE source = #{source} AND reader = #{reader}")
  void leave(@Param("source") String source, @Param("reader") String reader);

  /** The lowest position of any reader; 0 if there is none. */
  @Select("SELECT coalesce(min(position), 0) FROM push_reader WHERE source = #{source}")
  long lowest(@Param("source") String source);

  /** Forgets deletions up to a number; how many there were. */
  @Delete(
      "DELETE FROM push_record WHERE source = #{source} AND content IS NULL AND number <= #{number}")
  int forgetDeletions(@Param("source") String source, @Param("number") long number);

  @Update("UPDATE push_source SET trimmed = max(trimmed, #{number}) WHERE name = #{source}")
  void setTrimmed(@Param("source") String source, @Param("number") long number);

  @Delete("DELETE FROM push_reader WHERE source = #{source}")
  void removeReaders(@Param("source") String source);
}
