package org.mnemex.service.store;

import java.util.List;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.jspecify.annotations.Nullable;

/** Recorded editions. */
public interface EditionMapper {
  /**
   * An edition.
   *
   * @param state FILLING, READY, LIVE, FORMER or RETIRED
   * @param until ISO 8601, of a former edition
   */
  record EditionRow(
      String indexName,
      int number,
      int version,
      String state,
      boolean fromStored,
      boolean hold,
      @Nullable String until,
      @Nullable Long filledRecords,
      @Nullable Long filledMillis) {}

  @Select(
      """
      SELECT index_name, number, version, state, from_stored, hold, until, filled_records,
        filled_millis
      FROM edition WHERE index_name = #{index} ORDER BY number""")
  List<EditionRow> of(@Param("index") String index);

  /** The last editions of any index that were filled, newest first. */
  @Select(
      """
      SELECT index_name, number, version, state, from_stored, hold, until, filled_records,
        filled_millis
      FROM edition WHERE filled_millis > 0 ORDER BY changed_at DESC LIMIT #{count}""")
  List<EditionRow> lastFilled(@Param("count") int count);

  @Insert(
      """
      INSERT INTO edition (index_name, number, version, state, changed_at, from_stored, hold,
        until, filled_records, filled_millis)
      VALUES (#{row.indexName}, #{row.number}, #{row.version}, #{row.state}, #{at},
        #{row.fromStored}, #{row.hold}, #{row.until}, #{row.filledRecords}, #{row.filledMillis})
      ON CONFLICT (index_name, number) DO UPDATE
      SET version = excluded.version, state = excluded.state, changed_at = excluded.changed_at,
        until = excluded.until, filled_records = excluded.filled_records,
        filled_millis = excluded.filled_millis""")
  void save(@Param("row") EditionRow row, @Param("at") String at);
}
