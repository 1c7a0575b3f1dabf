package org.mnemex.service.store;

import java.util.List;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;

/** Recorded queries. */
public interface QueryMapper {
  /** A query and how often it was asked. */
  record QueryRow(String words, long searches) {}

  @Insert(
      """
      INSERT INTO recorded_query (endpoint, words, searches, last_at)
      VALUES (#{endpoint}, #{words}, #{searches}, #{at})
      ON CONFLICT (endpoint, words) DO UPDATE
      SET searches = searches + excluded.searches, last_at = excluded.last_at""")
  void add(
      @Param("endpoint") String endpoint,
      @Param("words") String words,
      @Param("searches") long searches,
      @Param("at") String at);

  /** The most frequent first. */
  @Select(
      """
      SELECT words, searches FROM recorded_query WHERE endpoint = #{endpoint}
      ORDER BY searches DESC, last_at DESC, words LIMIT #{count}""")
  List<QueryRow> most(@Param("endpoint") String endpoint, @Param("count") int count);

  /** Keeps the latest ones. */
  @Delete(
      """
      DELETE FROM recorded_query WHERE endpoint = #{endpoint} AND words NOT IN (
        SELECT words FROM recorded_query WHERE endpoint = #{endpoint}
        ORDER BY last_at DESC LIMIT #{kept})""")
  void trim(@Param("endpoint") String endpoint, @Param("kept") int kept);
}
