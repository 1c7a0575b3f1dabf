package org.mnemex.service.store;

import java.util.List;
import java.util.Set;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.annotations.Update;
import org.jspecify.annotations.Nullable;

/** Records that could not be read or mapped. */
public interface QuarantineMapper {
  /**
   * A record in quarantine.
   *
   * @param recordKey key of the record
   * @param reason why it could not be indexed
   * @param since when it came into quarantine, ISO 8601, UTC
   * @param dismissed whether somebody has dismissed it
   */
  record QuarantineRow(String recordKey, String reason, String since, boolean dismissed) {}

  @Select(
      """
      SELECT record_key, reason, since, dismissed FROM quarantine
      WHERE index_name = #{index} AND edition = #{edition} ORDER BY dismissed, record_key LIMIT #{limit}""")
  List<QuarantineRow> list(
      @Param("index") String index, @Param("edition") int edition, @Param("limit") int limit);

  @Select("SELECT record_key FROM quarantine WHERE index_name = #{index} AND edition = #{edition}")
  Set<String> keys(@Param("index") String index, @Param("edition") int edition);

  /** Why a record is in quarantine, or null. */
  @Select(
      """
      SELECT reason FROM quarantine
      WHERE index_name = #{index} AND edition = #{edition} AND record_key = #{key}""")
  @Nullable String reason(
      @Param("index") String index, @Param("edition") int edition, @Param("key") String key);

  @Insert(
      """
      INSERT INTO quarantine (index_name, edition, record_key, reason, since)
      VALUES (#{index}, #{edition}, #{key}, #{reason}, #{since})
      ON CONFLICT (index_name, edition, record_key) DO UPDATE
      SET dismissed = CASE WHEN reason = excluded.reason THEN dismissed ELSE 0 END,
        reason = excluded.reason, since = excluded.since""")
  void put(
      @Param("index") String index,
      @Param("edition") int edition,
      @Param("key") String key,
      @Param("reason") String reason,
      @Param("since") String since);

  /** Dismisses a record; whether there was one. */
  @Update(
      """
      UPDATE quarantine SET dismissed = 1
      WHERE index_name = #{index} AND edition = #{edition} AND record_key = #{key}""")
  int dismiss(
      @Param("index") String index, @Param("edition") int edition, @Param("key") String key);

  @Delete(
      """
      DELETE FROM quarantine
      WHERE index_name = #{index} AND edition = #{edition} AND record_key = #{key}""")
  void remove(
      @Param("index") String index, @Param("edition") int edition, @Param("key") String key);

  @Delete("DELETE FROM quarantine WHERE index_name = #{index} AND edition = #{edition}")
  void removeAll(@Param("index") String index, @Param("edition") int edition);

  @Insert(
      """
      INSERT OR IGNORE INTO read_request (index_name, edition, record_key)
      VALUES (#{index}, #{edition}, #{key})""")
  void ask(@Param("index") String index, @Param("edition") int edition, @Param("key") String key);

  @Select(
      """
      SELECT record_key FROM read_request
      WHERE index_name = #{index} AND edition = #{edition} ORDER BY record_key LIMIT #{limit}""")
  List<String> asked(
      @Param("index") String index, @Param("edition") int edition, @Param("limit") int limit);

  @Delete(
      """
      DELETE FROM read_request
      WHERE index_name = #{index} AND edition = #{edition} AND record_key = #{key}""")
  void answered(
      @Param("index") String index, @Param("edition") int edition, @Param("key") String key);

  @Delete("DELETE FROM read_request WHERE index_name = #{index} AND edition = #{edition}")
  void removeRequests(@Param("index") String index, @Param("edition") int edition);
}
