package org.mnemex.service.store;

import java.util.List;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.annotations.Update;
import org.jspecify.annotations.Nullable;
import org.mnemex.grammar.DefinitionKind;

/** Definitions with all their versions. */
public interface DefinitionMapper {
  /** The current version of each definition. */
  @Select(
      """
      SELECT kind, name, version, file, text, needs, author, created_at, kept_as, hold FROM definition AS d
      WHERE version = (SELECT max(version) FROM definition WHERE kind = d.kind AND name = d.name)
      ORDER BY kind, name""")
  List<DefinitionRow> current();

  /** The versions of a definition, newest first. */
  @Select(
      """
      SELECT kind, name, version, file, text, needs, author, created_at, kept_as, hold FROM definition
      WHERE kind = #{kind} AND name = #{name} ORDER BY version DESC""")
  List<DefinitionRow> versions(@Param("kind") DefinitionKind kind, @Param("name") String name);

  /** One version, or null. */
  @Select(
      """
      SELECT kind, name, version, file, text, needs, author, created_at, kept_as, hold FROM definition
      WHERE kind = #{kind} AND name = #{name} AND version = #{version}""")
  @Nullable DefinitionRow version(
      @Param("kind") DefinitionKind kind,
      @Param("name") String name,
      @Param("version") int version);

  @Insert(
      """
      INSERT INTO definition (kind, name, version, file, text, needs, author, created_at, kept_as,
        hold)
      VALUES (#{kind}, #{name}, #{version}, #{file}, #{text}, #{needs}, #{author}, #{createdAt},
        #{keptAs}, #{hold})""")
  void insert(DefinitionRow row);

  /** A version of the index with a storage name, or null. */
  @Select(
      """
      SELECT kind, name, version, file, text, needs, author, created_at, kept_as, hold FROM definition
      WHERE kind = 'index' AND kept_as = #{keptAs} AND version = #{version}""")
  @Nullable DefinitionRow indexVersion(
      @Param("keptAs") String keptAs, @Param("version") int version);

  /** Whether another index uses a storage name. */
  @Select(
      """
      SELECT count(*) > 0 FROM definition
      WHERE kind = 'index' AND kept_as = #{keptAs} AND name <> #{name}""")
  boolean othersAreKeptAs(@Param("keptAs") String keptAs, @Param("name") String name);

  /** Gives an index another name, with all its versions. */
  @Update("UPDATE definition SET name = #{name} WHERE kind = 'index' AND name = #{former}")
  void renameIndex(@Param("former") String former, @Param("name") String name);

  @Delete("DELETE FROM definition WHERE kind = #{kind} AND name = #{name}")
  void remove(@Param("kind") DefinitionKind kind, @Param("name") String name);

  /** The identifier of this installation, or null before it is set. */
  @Select("SELECT id FROM installation")
  @Nullable String installation();

  /** Lets the installation get another identifier. */
  @Delete("DELETE FROM installation")
  void forgetInstallation();

  /** The shard whose records are in this data folder, or null before the installation has one. */
  @Select("SELECT shard FROM installation")
  @Nullable String shard();

  @Insert("INSERT INTO installation (id, shard) VALUES (#{id}, #{shard})")
  void insertInstallation(@Param("id") String id, @Param("shard") String shard);
}
