package org.mnemex.service.store;

import java.util.List;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;

/** Recorded scores. */
public interface ScoreMapper {
  /**
   * The means over a scorecard's queries.
   *
   * @param scorecardVersion version of the scorecard's definition
   * @param edition number of the edition
   * @param indexVersion version of the index definition that the edition was built from
   * @param at when it was scored, ISO 8601, UTC
   * @param ndcg mean nDCG over all queries
   * @param reciprocalRank mean reciprocal rank over all queries
   * @param precision mean precision over all queries
   * @param recall mean recall over all queries
   */
  record ScoreRow(
      int scorecardVersion,
      int edition,
      int indexVersion,
      String at,
      double ndcg,
      double reciprocalRank,
      double precision,
      double recall) {}

  @Insert(
      """
      INSERT INTO score (scorecard, scorecard_version, edition, index_version, at, ndcg,
        reciprocal_rank, precision, recall)
      VALUES (#{name}, #{row.scorecardVersion}, #{row.edition}, #{row.indexVersion}, #{row.at},
        #{row.ndcg}, #{row.reciprocalRank}, #{row.precision}, #{row.recall})""")
  void insert(@Param("name") String name, @Param("row") ScoreRow row);

  /** The last ones, oldest first. */
  @Select(
      """
      SELECT scorecard_version, edition, index_version, at, ndcg, reciprocal_rank, precision, recall
      FROM (
        SELECT id, scorecard_version, edition, index_version, at, ndcg, reciprocal_rank, precision,
          recall
        FROM score WHERE scorecard = #{name} ORDER BY id DESC LIMIT #{count}) ORDER BY id""")
  List<ScoreRow> last(@Param("name") String name, @Param("count") int count);

  @Delete(
      """
      DELETE FROM score WHERE scorecard = #{name} AND id NOT IN (
        SELECT id FROM score WHERE scorecard = #{name} ORDER BY id DESC LIMIT #{kept})""")
  void trim(@Param("name") String name, @Param("kept") int kept);
}
