package org.mnemex.service.store;

import java.util.List;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.jspecify.annotations.Nullable;

/** Definitions with all their versions. */
public interface DefinitionMapper {
  /** The current version of each definition. */
  @Select(
      """
      SELECT kind, name, version, file, text, needs, author, created_at FROM definition AS d
      WHERE version = (SELECT max(version) FROM definition WHERE kind = d.kind AND name = d.name)
      ORDER BY kind, name""")
  List<DefinitionRow> current();

  /** The versions of a definition, newest first. */
  @Select(
      """
      SELECT kind, name, version, file, text, needs, author, created_at FROM definition
      WHERE kind = #{kind} AND name = #{name} ORDER BY version DESC""")
  List<DefinitionRow> versions(@Param("kind") String kind, @Param("name") String name);

  /** One version, or null. */
  @Select(
      """
      SELECT kind, name, version, file, text, needs, author, created_at FROM definition
      WHERE kind = #{kind} AND name = #{name} AND version = #{version}""")
  @Nullable DefinitionRow version(
      @Param("kind") String kind, @Param("name") String name, @Param("version") int version);

  @Insert(
      """
      INSERT INTO definition (kind, name, version, file, text, needs, author, created_at)
      VALUES (#{kind}, #{name}, #{version}, #{file}, #{text}, #{needs}, #{author}, #{createdAt})""")
  void insert(DefinitionRow row);

  @Delete("DELETE FROM definition WHERE kind = #{kind} AND name = #{name}")
  void remove(@Param("kind") String kind, @Param("name") String name);

  /** What tells this installation from others, or null before it is given. */
  @Select("SELECT id FROM installation")
  @Nullable String installation();

  @Insert("INSERT INTO installation (id) VALUES (#{id})")
  void insertInstallation(@Param("id") String id);
}
