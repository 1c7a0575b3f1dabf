package org.mnemex.service.store;

import java.util.List;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;

/** Readers that have ended, until their sources are told. */
public interface DepartureMapper {
  @Insert("INSERT OR IGNORE INTO departed_reader (source, reader) VALUES (#{source}, #{reader})")
  void add(@Param("source") String source, @Param("reader") String reader);

  @Select("SELECT reader FROM departed_reader WHERE source = #{source}")
  List<String> of(@Param("source") String source);

  @Delete("DELETE FROM departed_reader WHERE source = #{source} AND reader = #{reader}")
  void remove(@Param("source") String source, @Param("reader") String reader);

  @Delete("DELETE FROM departed_reader WHERE source = #{source}")
  void removeAll(@Param("source") String source);
}
