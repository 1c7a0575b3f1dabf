package org.mnemex.service.store;

import java.util.List;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.annotations.Update;
import org.jspecify.annotations.Nullable;

/** Keys that callers sign in with. */
public interface AccessKeyMapper {
  /**
   * A key.
   *
   * @param role its right
   * @param hash of the secret, see {@link org.mnemex.service.access.Keys}
   * @param scope JSON
   * @param created ISO 8601, UTC, like the other times
   */
  record AccessKeyRow(
      String id,
      String name,
      String role,
      String hash,
      String scope,
      String created,
      @Nullable String expires,
      @Nullable String lastUsed,
      @Nullable String revoked) {}

  @Select(
      """
      SELECT id, name, role, hash, scope, created, expires, last_used, revoked
      FROM access_key ORDER BY created, id""")
  List<AccessKeyRow> all();

  @Insert(
      """
      INSERT INTO access_key (id, name, role, hash, scope, created, expires)
      VALUES (#{id}, #{name}, #{role}, #{hash}, #{scope}, #{created}, #{expires})""")
  void insert(AccessKeyRow row);

  @Update("UPDATE access_key SET revoked = #{at} WHERE id = #{id}")
  void revoke(@Param("id") String id, @Param("at") String at);

  @Update("UPDATE access_key SET expires = #{at} WHERE id = #{id}")
  void expire(@Param("id") String id, @Param("at") String at);

  @Update("UPDATE access_key SET last_used = #{at} WHERE id = #{id}")
  void use(@Param("id") String id, @Param("at") String at);
}
