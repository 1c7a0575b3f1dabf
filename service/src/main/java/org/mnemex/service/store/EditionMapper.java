package org.mnemex.service.store;

import java.util.List;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.annotations.Update;

/** Which editions there are. */
public interface EditionMapper {
  /**
   * An edition.
   *
   * @param state FILLING, LIVE or RETIRED
   */
  record EditionRow(String indexName, int number, int version, String state) {}

  @Select(
      """
      SELECT index_name, number, version, state FROM edition
      WHERE index_name = #{index} ORDER BY number""")
  List<EditionRow> of(@Param("index") String index);

  @Insert(
      """
      INSERT INTO edition (index_name, number, version, state, changed_at)
      VALUES (#{row.indexName}, #{row.number}, #{row.version}, #{row.state}, #{at})
      ON CONFLICT (index_name, number) DO UPDATE
      SET state = excluded.state, changed_at = excluded.changed_at""")
  void save(@Param("row") EditionRow row, @Param("at") String at);

  @Update(
      """
      UPDATE edition SET state = 'RETIRED', changed_at = #{at}
      WHERE index_name = #{index} AND number = #{number}""")
  void retire(@Param("index") String index, @Param("number") int number, @Param("at") String at);
}
