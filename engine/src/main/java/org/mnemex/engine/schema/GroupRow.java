package org.mnemex.engine.schema;

import java.util.List;
import java.util.Map;

/**
 * One child row of a group field.
 *
 * @param fields values by the child field's own name, without the group's
 */
public record GroupRow(Map<String, List<Object>> fields) {
  public GroupRow {
    fields = Map.copyOf(fields);
  }
}
