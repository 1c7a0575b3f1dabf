package org.mnemex.service.store;

import java.util.Set;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;

/** Commands to feeds, by storage name of the index. */
public interface FeedMapper {
  /** The indexes whose feeds are paused. */
  @Select("SELECT index_name FROM paused_feed")
  Set<String> paused();

  @Insert("INSERT OR IGNORE INTO paused_feed (index_name) VALUES (#{index})")
  void pause(@Param("index") String index);

  @Delete("DELETE FROM paused_feed WHERE index_name = #{index}")
  void resume(@Param("index") String index);
}
