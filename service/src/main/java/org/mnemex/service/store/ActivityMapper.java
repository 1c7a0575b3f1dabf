package org.mnemex.service.store;

import java.util.List;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;

/** Administrative acts, refused ones included. */
public interface ActivityMapper {
  /**
   * An act.
   *
   * @param id grows with time
   * @param at when, ISO 8601, UTC
   * @param keyId the caller's key; {@code local} without keys, {@code none} without a valid key
   * @param caller name of the caller
   * @param address where the call came from
   * @param act what was asked, such as {@code POST /api/definitions}
   * @param target what it was about, such as {@code plants}; empty if nothing in particular
   * @param status HTTP status of the answer
   */
  record ActivityRow(
      long id,
      String at,
      String keyId,
      String caller,
      String address,
      String act,
      String target,
      int status) {}

  @Insert(
      """
      INSERT INTO activity (at, key_id, caller, address, act, target, status)
      VALUES (#{at}, #{keyId}, #{caller}, #{address}, #{act}, #{target}, #{status})""")
  void insert(ActivityRow row);

  /** Acts before an act, newest first. */
  @Select(
      """
      SELECT id, at, key_id, caller, address, act, target, status FROM activity
      WHERE id < #{before} AND (#{key} = '' OR key_id = #{key})
      AND (#{target} = '' OR target = #{target}) AND (NOT #{refused} OR status >= 400)
      ORDER BY id DESC LIMIT #{limit}""")
  List<ActivityRow> before(
      @Param("before") long before,
      @Param("key") String key,
      @Param("target") String target,
      @Param("refused") boolean refused,
      @Param("limit") int limit);

  @Delete("DELETE FROM activity WHERE at < #{before}")
  int trim(@Param("before") String before);
}
