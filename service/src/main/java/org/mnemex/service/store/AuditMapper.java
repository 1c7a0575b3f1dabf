package org.mnemex.service.store;

import java.util.List;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.annotations.Update;
import org.jspecify.annotations.Nullable;

/** Audits and what they found. */
public interface AuditMapper {
  /**
   * An audit.
   *
   * @param started ISO 8601, UTC
   * @param state running, done or failed
   * @param result JSON once it is done, the reason if it failed
   */
  record AuditRow(long id, String indexName, String started, String state, String result) {}

  @Select(
      """
      INSERT INTO audit (index_name, started, state, result)
      VALUES (#{index}, #{started}, 'running', '') RETURNING id""")
  long begin(@Param("index") String index, @Param("started") String started);

  @Update("UPDATE audit SET state = #{state}, result = #{result} WHERE id = #{id}")
  void end(@Param("id") long id, @Param("state") String state, @Param("result") String result);

  /** Audits that a stop of the service interrupted. */
  @Update(
      """
      UPDATE audit SET state = 'failed', result = 'the service was stopped' WHERE state = 'running'""")
  void endAll();

  @Select(
      """
      SELECT id, index_name, started, state, result FROM audit
      WHERE index_name = #{index} ORDER BY id DESC LIMIT #{limit}""")
  List<AuditRow> list(@Param("index") String index, @Param("limit") int limit);

  /** The latest audit that ended with a result. */
  @Select(
      """
      SELECT id, index_name, started, state, result FROM audit
      WHERE index_name = #{index} AND state = 'done' ORDER BY id DESC LIMIT 1""")
  @Nullable AuditRow lastDone(@Param("index") String index);

  @Delete(
      """
      DELETE FROM audit WHERE index_name = #{index} AND id NOT IN
        (SELECT id FROM audit WHERE index_name = #{index} ORDER BY id DESC LIMIT #{kept})""")
  void trim(@Param("index") String index, @Param("kept") int kept);
}
