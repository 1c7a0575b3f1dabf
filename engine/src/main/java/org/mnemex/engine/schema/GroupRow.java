package org.mnemex.engine.schema;

import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;

/**
 * One child row of a group field.
 *
 * @param fields values by the child field's own name, without the group's, in the group's order
 */
public record GroupRow(Map<String, List<Object>> fields) {
  public GroupRow {
    fields = Collections.unmodifiableMap(new LinkedHashMap<>(fields));
  }
}
